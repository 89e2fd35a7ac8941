import { newId, withBand, withoutStep, withStep } from "./editing";
import { type Band, type Definition, inSeconds, type Moment, onCalendar, type Place, type Step } from "./sheetLayout";

/** Moving, copying and cutting steps and bands, as pure functions from one definition to the next. */

const minute = 60;
const hour = 3600;
const day = 86_400;

/** Moments that people choose, in seconds after the band lit: what a step snaps to. */
export const sensibleMoments: readonly number[] = [
  0,
  10,
  20,
  30,
  ...[1, 2, 3, 5, 10, 15, 20, 30, 45].map((n) => n * minute),
  ...[1, 2, 3, 4, 6, 8, 12].map((n) => n * hour),
  ...[1, 2, 3, 4, 5, 7, 10, 14, 21, 30, 60, 90].map((n) => n * day),
];

/** The next sensible moment, earlier or later. One on the calendar goes day by day and keeps its hour. */
export function momentBeside(moment: Moment, later: boolean): Moment {
  if (onCalendar(moment)) return { ...moment, days: Math.max(moment.at || moment.working ? 0 : 1, moment.days + (later ? 1 : -1)) };
  const at = moment.afterSeconds;
  const next = later ? sensibleMoments.find((m) => m > at) : sensibleMoments.findLast((m) => m < at);
  return next === undefined ? moment : { ...moment, afterSeconds: next };
}

/** A stretch of a band's line between two moments: how long it is drawn, and the moment of what is let go there. */
export type Stretch = { seconds: number | null; width: number };

/** The stretches before, between and after the moments of a line; the further apart they are, the longer. */
export function stretchesOf(line: readonly Place[]): Stretch[] {
  const ends = line.map((p) => p.seconds);
  return [...ends, null].map((to, i): Stretch => {
    const from = ends[i - 1];
    const width = from !== undefined && to !== null ? Math.round(10 + 5.5 * Math.log10(1 + to - from)) : from === undefined ? 8 : 40;
    if (from === undefined) return { seconds: to === 0 ? null : 0, width };
    if (to === null) return { seconds: sensibleMoments.find((m) => m > from) ?? null, width };
    const between = sensibleMoments.filter((m) => m > from && m < to);
    return { seconds: between[Math.floor(between.length / 2)] ?? null, width };
  });
}

/** Where a step is let go: among others of a moment, on the stretch beside them, or on the band as such. */
export type Drop = { moment: Moment } | { seconds: number } | null;

/** The moment of a step that is let go there. One on the calendar keeps its hour from one day to another. */
export function momentOfDrop(moment: Moment, drop: Drop): Moment {
  if (drop === null) return moment;
  if ("moment" in drop) return drop.moment;
  return onCalendar(moment) && drop.seconds >= day ? { ...moment, days: Math.floor(drop.seconds / day) } : inSeconds(drop.seconds);
}

const stepOf = (definition: Definition, stepId: string) => definition.bands.flatMap((b) => b.steps).find((s) => s.id === stepId);

/** A step to another band, another moment, or both. */
export function withMoved(definition: Definition, stepId: string, to: { band?: string; moment?: Moment }): Definition {
  const step = stepOf(definition, stepId);
  const from = definition.bands.find((b) => b.steps.some((s) => s.id === stepId));
  if (!step || !from) return definition;
  const moved: Step = { ...step, moment: to.moment ?? step.moment };
  if (!to.band || to.band === from.id) {
    return withStep(definition, stepId, () => moved);
  }
  if (!definition.bands.some((b) => b.id === to.band)) return definition;
  // Only a step of its own band can stand in for it, or it for one.
  const alone: Step =
    moved.onFailure?.next === "instead" ? { ...moved, onFailure: { ...moved.onFailure, next: "go-on", step: null } } : moved;
  const left = withoutStep(definition, stepId);
  const freed = from.steps
    .filter((s) => s.onFailure?.step === stepId)
    .reduce(
      (d, { id }) => withStep(d, id, (s) => (s.onFailure ? { ...s, onFailure: { ...s.onFailure, next: "go-on", step: null } } : s)),
      left,
    );
  return withBand(freed, to.band, (b) => ({ ...b, steps: [...b.steps, alone] }));
}

/** A step a moment or a band further, as an arrow key says. */
export function withNudged(definition: Definition, stepId: string, arrow: "left" | "right" | "up" | "down"): Definition {
  const step = stepOf(definition, stepId);
  if (!step) return definition;
  if (arrow === "left" || arrow === "right") return withMoved(definition, stepId, { moment: momentBeside(step.moment, arrow === "right") });
  const at = definition.bands.findIndex((b) => b.steps.some((s) => s.id === stepId));
  const band = definition.bands[at + (arrow === "down" ? 1 : -1)];
  return band ? withMoved(definition, stepId, { band: band.id }) : definition;
}

/** A step let go on a band's line. */
export const withDropped = (definition: Definition, stepId: string, bandId: string, drop: Drop): Definition => {
  const step = stepOf(definition, stepId);
  return step ? withMoved(definition, stepId, { band: bandId, moment: momentOfDrop(step.moment, drop) }) : definition;
};

/** What was copied or cut, from this fuse or another. */
export type Clip = { step: Step } | { band: Band };

// What a copy refers to by id is renamed with it; what is not there any more is let go.
function renamed<T>(of: T, ids: ReadonlyMap<string, string>): T {
  let text = JSON.stringify(of);
  for (const [before, after] of ids) text = text.replaceAll(`steps.${before}.`, `steps.${after}.`);
  return JSON.parse(text) as T;
}

/** Adds a copied step to a band, under an id of its own. */
export function withPastedStep(definition: Definition, bandId: string, step: Step): { definition: Definition; id: string } {
  const id = newId(definition, "s");
  const { onFailure } = step;
  const pasted: Step = { ...step, id, onFailure: onFailure?.next === "instead" ? { ...onFailure, next: "go-on", step: null } : onFailure };
  return {
    id,
    definition: { ...definition, bands: definition.bands.map((b) => (b.id === bandId ? { ...b, steps: [...b.steps, pasted] } : b)) },
  };
}

/** Adds a copied band after another, or at the end; its steps go on referring to one another. */
export function withPastedBand(definition: Definition, band: Band, after?: string): { definition: Definition; id: string } {
  const ids = new Map<string, string>();
  let grown = definition;
  for (const step of band.steps) {
    const id = newId(grown, "s");
    ids.set(step.id, id);
    grown = { ...grown, bands: [...grown.bands, { ...band, id: `${band.id}.${id}`, steps: [{ ...step, id }] }] };
  }
  const id = newId(definition, "b");
  const known = new Set([...definition.bands.flatMap((b) => [b.id, ...b.steps.map((s) => s.id)]), ...ids.values()]);
  const named = definition.bands.some((b) => b.name === band.name) ? `${band.name} (copy)` : band.name;
  const of = band.entry.of ? (ids.get(band.entry.of) ?? band.entry.of) : band.entry.of;
  const pasted: Band = renamed(
    {
      ...band,
      id,
      name: named,
      entry: { ...band.entry, of: of && known.has(of) ? of : null },
      steps: band.steps.map((s) => ({
        ...s,
        id: ids.get(s.id) ?? s.id,
        onFailure: s.onFailure?.step ? { ...s.onFailure, step: ids.get(s.onFailure.step) ?? null } : s.onFailure,
      })),
    },
    ids,
  );
  const at = after ? definition.bands.findIndex((b) => b.id === after) + 1 : definition.bands.length;
  return { id, definition: { ...definition, bands: [...definition.bands.slice(0, at), pasted, ...definition.bands.slice(at)] } };
}

/** A band one place up or down. */
export function withBandMoved(definition: Definition, bandId: string, down: boolean): Definition {
  const at = definition.bands.findIndex((b) => b.id === bandId);
  const to = at + (down ? 1 : -1);
  if (at < 0 || to < 0 || to >= definition.bands.length) return definition;
  const bands = [...definition.bands];
  [bands[at], bands[to]] = [bands[to] as Band, bands[at] as Band];
  return { ...definition, bands };
}
