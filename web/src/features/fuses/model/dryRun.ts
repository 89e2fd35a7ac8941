import type { Schemas } from "@/api/client";

type Moment = Schemas["DryMoment"];

/** How a step or a band stands at a moment of a dry run. */
export type Mark = { word: string; of: "whole" | "broken" | "waiting" | "plain"; at: string };

const stepWords: Record<string, { word: string; of: Mark["of"] }> = {
  "step-sent": { word: "sent", of: "whole" },
  "step-done": { word: "done", of: "whole" },
  "step-waits": { word: "waits", of: "waiting" },
  "step-failed": { word: "failed", of: "broken" },
  "step-cancelled": { word: "left out", of: "plain" },
  "step-retries": { word: "trying again", of: "broken" },
};

/** What the sheet shows after the first so many moments: the last word on each step, and which bands are lit. */
export function marksAfter(moments: readonly Moment[], count: number): { steps: Map<string, Mark>; bands: Map<string, Mark> } {
  const steps = new Map<string, Mark>();
  const bands = new Map<string, Mark>();
  for (const m of moments.slice(0, count)) {
    const said = stepWords[m.kind];
    // When it went out is what counts; that it arrived says nothing new.
    if (m.stepId && said && !(m.kind === "step-done" && steps.get(m.stepId)?.word === "sent")) steps.set(m.stepId, { ...said, at: m.at });
    if (m.bandId && m.kind === "band-lit") bands.set(m.bandId, { word: "lit", of: "whole", at: m.at });
    if (m.bandId && m.kind === "band-passed") bands.set(m.bandId, { word: "passed by", of: "plain", at: m.at });
  }
  return { steps, bands };
}

/** Moments as they are pressed through: what happens at one time for one cause is one press. */
export function stopsOf(moments: readonly Moment[]): number[] {
  const stops: number[] = [];
  moments.forEach((m, i) => {
    if (i + 1 === moments.length || moments[i + 1]?.at !== m.at) stops.push(i + 1);
  });
  return stops;
}

/** Kinds of thing that can happen during a dry run, as they are offered. */
export const reactionsOf = (around: Pick<Schemas["FuseContext"], "events" | "kinds">) => [
  ...around.events
    .filter((e) =>
      ["replied", "touched", "opted-out", "call-outcome", "rang-through", "record-moved", "stage-reached", "tagged"].includes(e.key),
    )
    .map((e) => ({ what: e.key, label: e.sentence, detail: e.key === "replied" ? { label: "They write", values: null } : detailOf(e) })),
  {
    what: "down",
    label: "a service is down all along",
    detail: {
      label: "Which",
      values: [
        ...new Set(around.kinds.filter((k) => k.lane !== "silent").flatMap((k) => (k.service && k.service.length > 0 ? [k.service] : []))),
      ],
    },
  },
];

function detailOf(e: Schemas["ContextEvent"]): { label: string; values: readonly string[] | null } | null {
  const first = e.details[0];
  return first ? { label: first.label, values: first.values && first.values.length > 0 ? first.values : null } : null;
}
