import { type Band, type Definition, entryOf, inSeconds, type Step, type StepKind } from "./sheetLayout";

/** Edits of a fuse as pure functions from one definition to the next. */

const taken = (definition: Definition) => new Set(definition.bands.flatMap((b) => [b.id, ...b.steps.map((s) => s.id)]));

/** An id that the fuse does not have yet. */
export function newId(definition: Definition, stem: string): string {
  const ids = taken(definition);
  for (let n = 1; ; n++) if (!ids.has(`${stem}${n}`)) return `${stem}${n}`;
}

export const withBand = (definition: Definition, bandId: string, change: (band: Band) => Band): Definition => ({
  ...definition,
  bands: definition.bands.map((b) => (b.id === bandId ? change(b) : b)),
});

// Bands that do not have the step stay the very same, so that they need not be drawn again.
const withStepsOfItsBand = (definition: Definition, stepId: string, change: (steps: Step[]) => Step[]): Definition => ({
  ...definition,
  bands: definition.bands.map((b) => (b.steps.some((s) => s.id === stepId) ? { ...b, steps: change(b.steps) } : b)),
});

export const withStep = (definition: Definition, stepId: string, change: (step: Step) => Step): Definition =>
  withStepsOfItsBand(definition, stepId, (steps) => steps.map((s) => (s.id === stepId ? change(s) : s)));

/** A step's settings with one changed; an empty one is taken out. */
export const withSettings = (step: Step, key: string, value: string): Record<string, string> => {
  const { [key]: _, ...others } = step.settings;
  return value === "" ? others : { ...others, [key]: value };
};

export const withoutStep = (definition: Definition, stepId: string): Definition =>
  withStepsOfItsBand(definition, stepId, (steps) => steps.filter((s) => s.id !== stepId));

export const withoutBand = (definition: Definition, bandId: string): Definition => ({
  ...definition,
  bands: definition.bands.filter((b) => b.id !== bandId),
});

/** Adds a step of a kind, with words to begin from. */
export function withNewStep(
  definition: Definition,
  bandId: string,
  kind: StepKind,
  targets: { channel?: string; person?: string },
): { definition: Definition; stepId: string } {
  const stepId = newId(definition, "s");
  const colleague = "owner";
  const beginnings: Record<string, string> = {
    colleague,
    line: "",
    channel: targets.channel ?? "",
    person: targets.person ?? "",
    words: kind.lane === "lead" ? '{{ lead.first_name | default: "Hello" }}, ' : "{{ lead.name }} ",
  };
  const step: Step = {
    id: stepId,
    name: kind.label,
    kind: kind.key,
    moment: inSeconds(0),
    // A record begins empty: what goes into it is chosen from the service's own lists.
    settings: Object.fromEntries(
      kind.settings
        .filter(
          (s) => kind.lane !== "systems" || (s.type !== "columns" && s.type !== "pairs" && s.type !== "json" && (!s.optional || s.default)),
        )
        .map((s) => [
          s.key,
          s.type === "choice" ? (s.choices?.[0]?.value ?? "") : kind.lane === "systems" ? (s.default ?? "") : (beginnings[s.type] ?? ""),
        ]),
    ),
  };
  return { definition: withBand(definition, bandId, (b) => ({ ...b, steps: [...b.steps, step] })), stepId };
}

/** Adds a band that is entered by rules, before an *otherwise* where there is one. */
export function withNewBand(definition: Definition): { definition: Definition; bandId: string } {
  const bandId = newId(definition, "b");
  const band: Band = {
    id: bandId,
    name: "A new case",
    entry: entryOf("when", { rules: { match: "all", rules: [] } }),
    steps: [],
    eachTime: false,
  };
  const at = definition.bands.findIndex((b) => b.entry.kind === "otherwise");
  const bands = [...definition.bands];
  bands.splice(at < 0 ? bands.length : at, 0, band);
  return { definition: { ...definition, bands }, bandId };
}

export type History = { past: Definition[]; present: Definition; future: Definition[]; saved: Definition };
export type Edit =
  | { type: "edit"; to: Definition; typing?: string }
  | { type: "undo" }
  | { type: "redo" }
  /** Another name, where it still has the one that was proposed before. */
  | { type: "name"; from: string; to: string }
  | { type: "saved"; as: Definition }
  | { type: "load"; to: Definition };

/** Undo and redo without limit; letters typed one after another into one place are one step back. */
export function history(state: History & { typing?: string }, edit: Edit): History & { typing?: string } {
  switch (edit.type) {
    case "edit": {
      const goesOn = edit.typing !== undefined && edit.typing === state.typing;
      return { ...state, past: goesOn ? state.past : [...state.past, state.present], present: edit.to, future: [], typing: edit.typing };
    }
    case "undo": {
      const before = state.past.at(-1);
      return before
        ? { ...state, past: state.past.slice(0, -1), present: before, future: [state.present, ...state.future], typing: undefined }
        : state;
    }
    case "redo": {
      const [next, ...rest] = state.future;
      return next ? { ...state, past: [...state.past, state.present], present: next, future: rest, typing: undefined } : state;
    }
    case "name":
      return state.present.name === edit.from ? { ...state, present: { ...state.present, name: edit.to } } : state;
    case "saved":
      return { ...state, saved: edit.as, typing: undefined };
    case "load":
      return { past: [], present: edit.to, future: [], saved: edit.to };
  }
}

/** Whether what is on screen differs from what is saved. */
export const isDirty = (state: History) => state.present !== state.saved && JSON.stringify(state.present) !== JSON.stringify(state.saved);
