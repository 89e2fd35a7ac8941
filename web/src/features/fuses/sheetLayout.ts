import type { Schemas } from "@/api/client";

export type Definition = Schemas["FuseDefinition"];
export type Band = Schemas["Band"];
export type Step = Schemas["Step"];
export type Lane = Schemas["Lane"];
export type StepKind = Schemas["AroundStepKind"];

const day = 86_400;

/** Moments that every sheet shows, in seconds after the band lit. */
export const usualMoments = [0, 10, 60, 300, 3600] as const;

/** A span as the sheet writes it: `at once`, `10 s`, `90 s`, `5 min`, `2 h`, `next day`, `day 3`. */
export function momentWords(seconds: number): string {
  if (seconds === 0) return "at once";
  if (seconds === day) return "next day";
  if (seconds % day === 0) return `day ${seconds / day + 1}`;
  if (seconds % 3600 === 0) return `${seconds / 3600} h`;
  if (seconds % 60 === 0) return `${seconds / 60} min`;
  return `${seconds} s`;
}

/** The columns of a sheet: the usual moments, and a column for each day on which something happens. */
export function columnsOf(definition: Definition): number[] {
  const days = definition.bands.flatMap((b) => b.steps).filter((s) => s.afterSeconds >= day);
  return [...new Set([...usualMoments, ...days.map((s) => Math.floor(s.afterSeconds / day) * day)])].sort((a, b) => a - b);
}

/** The column in which a step stands: the last that does not begin after it. */
export const columnFor = (columns: readonly number[], seconds: number) => columns.findLastIndex((c) => c <= seconds);

/** The lanes of a band that are drawn: those with steps in them, in the order lead, team, systems. */
export function lanesOf(band: Band, kinds: readonly StepKind[]): { lane: Lane; steps: Step[] }[] {
  const laneOf = (step: Step) => kinds.find((k) => k.key === step.kind)?.lane ?? "systems";
  return (["lead", "team", "systems"] as const)
    .map((lane) => ({ lane, steps: band.steps.filter((s) => laneOf(s) === lane).sort((a, b) => a.afterSeconds - b.afterSeconds) }))
    .filter((l) => l.steps.length > 0);
}

/** A rule's comparison in words, before its values. */
export const opWords: Record<Schemas["RuleOp"], string> = {
  "one-of": "is one of",
  "not-one-of": "is none of",
  contains: "has in it",
  "at-least": "is at least",
  "at-most": "is at most",
  filled: "is filled in",
  empty: "is left empty",
};

/** Parts of a band's entry sentence; `strong` parts are what can be changed. */
export function entrySentence(band: Band, fields: readonly Schemas["AroundField"][]): { text: string; strong?: boolean }[] {
  if (band.entry.kind === "always") return [{ text: "Always", strong: true }];
  if (band.entry.kind === "otherwise") return [{ text: "Otherwise", strong: true }];
  const rules = band.entry.rules?.rules ?? [];
  if (rules.length === 0) return [{ text: "When " }, { text: "nothing is said yet", strong: true }];
  const join = band.entry.rules?.match === "any" ? " or " : " and ";
  return [
    { text: "When " },
    ...rules.flatMap((rule, i) => [
      ...(i > 0 ? [{ text: join }] : []),
      { text: labelOf(rule.field, fields), strong: true },
      { text: ` ${rule.op === "one-of" && rule.values.length === 1 ? "is" : opWords[rule.op]} ` },
      ...(rule.op === "filled" || rule.op === "empty" ? [] : [{ text: rule.values.join(", ") || "…", strong: true }]),
    ]),
  ];
}

const labelOf = (key: string, fields: readonly Schemas["AroundField"][]) =>
  (fields.find((f) => f.key === key)?.label ?? key.replaceAll("_", " ")).toLowerCase() || "…";

/** What a ticket says below its name. */
export function ticketWords(step: Step): string {
  const where = step.settings.channel ?? step.settings.person;
  const words = (step.settings.words ?? "")
    .replace(/\{%[^%]*%\}/g, " ")
    .replace(/\{\{\s*(?:\w+\.)?(\w+)[^}]*\}\}/g, (_, name: string) => `‹${name.replaceAll("_", " ")}›`);
  return where ? where : words.replace(/\s+/g, " ").trim();
}
