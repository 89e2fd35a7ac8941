import type { Schemas } from "@/api/client";
import { between, needsValues, opWords } from "@/api/words";

export type Definition = Schemas["FuseDefinition"];
export type Band = Schemas["Band"];
export type Step = Schemas["Step"];
export type Moment = Schemas["StepMoment"];
export type Entry = Schemas["BandEntry"];
export type Lane = Schemas["Lane"];
export type StepKind = Schemas["ContextStepKind"];
export type Around = Schemas["FuseContext"];
export type Only = { [detail: string]: string[] };

const day = 86_400;

/** Moments that every sheet shows, in seconds after the band lit. */
export const usualMoments = [0, 10, 60, 300, 3600] as const;

/** A step done so many seconds after its band lit. */
export const inSeconds = (afterSeconds: number): Moment => ({ afterSeconds, days: 0, working: false, from: "band" });

/** An entry of this kind, with nothing said yet. */
export const entryOf = (kind: Entry["kind"], more: Partial<Entry> = {}): Entry => ({ kind, forSeconds: 0, ...more });

/** Where a moment stands on the sheet's line, days counted as days of 24 hours. */
export const roughly = (moment: Moment) =>
  onCalendar(moment) ? Math.max(moment.days * day, moment.at && moment.days === 0 ? 3600 : 0) : moment.afterSeconds;

export const onCalendar = (moment: Moment) => moment.days > 0 || moment.working || Boolean(moment.at);

/** A span as the sheet writes it: `at once`, `10 s`, `90 s`, `5 min`, `2 h`, `next day`, `day 3`. */
export function momentWords(seconds: number): string {
  if (seconds === 0) return "at once";
  if (seconds === day) return "next day";
  if (seconds % day === 0) return `day ${seconds / day + 1}`;
  return spanWords(seconds);
}

/** A length of time: `90 s`, `5 min`, `2 h`, `3 days`. */
export function spanWords(seconds: number): string {
  if (seconds >= day && seconds % day === 0) return seconds === day ? "1 day" : `${seconds / day} days`;
  if (seconds >= 3600 && seconds % 3600 === 0) return `${seconds / 3600} h`;
  if (seconds >= 60 && seconds % 60 === 0) return `${seconds / 60} min`;
  return `${seconds} s`;
}

/** A moment as it is read: `at once`, `5 min`, `next day 09:30`, `12 working days from submission`. */
export function sayMoment(moment: Moment): string {
  const from = moment.from === "submission" ? " from submission" : "";
  if (!onCalendar(moment)) return momentWords(moment.afterSeconds) + from;
  const at = moment.at ? ` ${moment.at}` : "";
  const working = moment.working ? "working " : "";
  const days =
    moment.days === 0
      ? moment.working
        ? "working day"
        : "the day"
      : moment.days === 1
        ? from
          ? `1 ${working}day`
          : `next ${working}day`
        : `${moment.days} ${working}days`;
  return days + from + at;
}

/** A moment on a band's line at which something is done. */
export type Place = { moment: Moment; words: string; seconds: number; steps: Step[] };

/** A band's line: the moments at which something is done, in their order, each with its steps. */
export function lineOf(band: Band): Place[] {
  const places = new Map<string, Place>();
  for (const step of band.steps) {
    const words = sayMoment(step.moment);
    const place = places.get(words);
    if (place) place.steps.push(step);
    else places.set(words, { moment: step.moment, words, seconds: roughly(step.moment), steps: [step] });
  }
  return [...places.values()].sort((a, b) => a.seconds - b.seconds || (a.moment.at ?? "").localeCompare(b.moment.at ?? ""));
}

/** Lanes, as the sheet calls them. */
export const laneWords = { lead: "Lead", team: "Team", systems: "Systems", silent: "Silent" } as const;

/** The lane in which a step stands. */
export const laneOf = (step: Step, kinds: readonly StepKind[]): Lane => kinds.find((k) => k.key === step.kind)?.lane ?? "systems";

/** The lanes of a band that are drawn: those with steps in them. */
export const lanesOf = (band: Band, kinds: readonly StepKind[]): Lane[] =>
  (["lead", "team", "systems", "silent"] as const).filter((lane) => band.steps.some((s) => laneOf(s, kinds) === lane));

/** All facts that rules can ask about: lead fields first. */
export const factsOf = (around: Pick<Around, "fields" | "facts">) => [...around.fields, ...around.facts];

/** A piece of a sentence; what can be changed in it is strong. */
export type SentencePart = { text: string; strong?: boolean };
type Labels = Pick<Around, "fields" | "facts"> & Partial<Pick<Around, "events">>;

/** Rules as parts of a sentence. */
export function ruleParts(rules: Schemas["RuleSet"] | null | undefined, around: Labels): SentencePart[] {
  const join = rules?.match === "any" ? " or " : " and ";
  const groups = rules?.groups ?? [];
  const said = (rules?.rules ?? []).map((rule): SentencePart[] => [
    { text: labelOf(rule.field, around), strong: true },
    ...comparison(rule),
  ]);
  for (const group of groups) said.push([{ text: "(" }, ...ruleParts(group, around), { text: ")" }]);
  return said.flatMap((parts, i) => (i > 0 ? [{ text: join }, ...parts] : parts));
}

function comparison(rule: Schemas["Rule"]): SentencePart[] {
  const words = rule.op === "one-of" && rule.values.length === 1 ? "is" : opWords(rule.op);
  if (!needsValues(rule.op)) return [{ text: ` ${words}` }];
  const values = { text: rule.values.join(between(rule.op)) || "…", strong: true };
  const [before, after] = words.split("…");
  return after === undefined ? [{ text: ` ${words} ` }, values] : [{ text: ` ${before}` }, values, { text: after }];
}

/** Parts of a band's entry sentence; `strong` parts are what can be changed. */
export function entrySentence(band: Band, around: Labels, definition?: Definition): SentencePart[] {
  const { entry } = band;
  const rules = ruleParts(entry.rules, around);
  const and = rules.length > 0 ? [{ text: ", and " }, ...rules] : [];
  switch (entry.kind) {
    case "always":
      return [{ text: "Always", strong: true }];
    case "otherwise":
      return [{ text: "Otherwise", strong: true }];
    case "when":
      return [{ text: "When " }, ...(rules.length > 0 ? rules : [{ text: "nothing is said yet", strong: true }])];
    case "silence":
      return [
        { text: "On silence for " },
        { text: spanWords(entry.forSeconds), strong: true },
        { text: " after " },
        { text: stepName(definition, entry.of), strong: true },
        ...and,
      ];
    case "failed":
      return [
        { text: "When " },
        { text: entry.of ? stepName(definition, entry.of) : "any step", strong: true },
        { text: " fails" },
        ...and,
      ];
    case "end":
      return [
        { text: "When " },
        { text: definition?.bands.find((b) => b.id === entry.of)?.name ?? "a band …", strong: true },
        { text: " has come to its end" },
        ...and,
      ];
    default:
      return [...onParts(entry, around), ...and];
  }
}

function onParts(entry: Entry, around: Labels): SentencePart[] {
  const only = Object.values(entry.only ?? {}).flat();
  if (entry.event === "replied") {
    const choices = entry.only?.choice ?? [];
    if (choices.length > 0) return [{ text: "On a reply that chooses " }, { text: choices.join(" or "), strong: true }];
    return only.length > 0
      ? [{ text: "On a reply that means " }, { text: only.join(" or "), strong: true }]
      : [{ text: "On " }, { text: "any reply", strong: true }];
  }
  const sentence = around.events?.find((e) => e.key === entry.event)?.sentence ?? entry.event ?? "something happens …";
  return [
    { text: "When " },
    { text: sentence, strong: true },
    ...(only.length > 0 ? [{ text: ": " }, { text: only.join(", "), strong: true }] : []),
  ];
}

const stepName = (definition: Definition | undefined, id: string | null | undefined) =>
  definition?.bands.flatMap((b) => b.steps).find((s) => s.id === id)?.name ?? "a step …";

const labelOf = (key: string, around: Labels) =>
  (factsOf(around).find((f) => f.key === key)?.label ?? key.split(".").slice(-2).join(" ").replaceAll("_", " ")).toLowerCase() || "…";

/** One way of lighting, as a sentence. */
export function litByWords(way: Schemas["LitBy"], around: Around): string {
  const kind = around.events.find((e) => e.key === way.event);
  const name = (detail: string, value: string) =>
    detail === "form" ? (around.forms.find((f) => f.key === value)?.name ?? `${value} (gone)`) : value;
  const only = Object.entries(way.only ?? {})
    .filter(([, values]) => values.length > 0)
    .map(([detail, values]) => {
      const named = values.map((v) => name(detail, v));
      const shown = named.length > 2 ? `${named[0]} or ${named.length - 1} more` : named.join(" or ");
      return detail === "form" ? `: ${shown}` : ` ${kind?.details.find((d) => d.key === detail)?.label ?? detail} ${shown}`;
    })
    .join(",");
  const rules = ruleParts(way.when, around)
    .map((p) => p.text)
    .join("");
  return [(kind?.sentence ?? way.event) + only, timerWords(way.timer, around), rules && `when ${rules}`].filter(Boolean).join(" ");
}

const weekdays = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

function timerWords(timer: Schemas["LitBy"]["timer"], around: Around): string {
  if (!timer) return "";
  const { days } = timer;
  if (timer.field) {
    const which = days === 0 ? "on the day of" : days > 0 ? `${days} days after` : `${-days} days before`;
    return `${which} ${labelOf(timer.field, around)} at ${timer.at}`;
  }
  return `at ${timer.at} ${timer.weekdays?.length ? `on ${timer.weekdays.map((d) => weekdays[d - 1]).join(", ")}` : "every day"}`;
}

/** A stop rule, as it is read after `stops when`. */
export function stopWords(rule: Schemas["StopRule"], around: Around): string {
  const only = Object.values(rule.only ?? {}).flat();
  return (around.events.find((e) => e.key === rule.event)?.sentence ?? rule.event) + (only.length > 0 ? `: ${only.join(" or ")}` : "");
}

/** What a ticket says below its name. */
export function ticketWords(step: Step): string {
  const { channel, person, subject, tag, stage, field, value } = step.settings;
  const plain = (words: string) =>
    words
      .replace(/\{%[^%]*%\}/g, " ")
      .replace(/\{\{\s*(?:\w+\.)*(\w+)[^}]*\}\}/g, (_, name: string) => `‹${name.replaceAll("_", " ")}›`)
      .replace(/\s+/g, " ")
      .trim();
  return channel ?? person ?? plain(subject ?? tag ?? stage ?? (field ? `${field}: ${value ?? ""}` : (step.settings.words ?? "")));
}
