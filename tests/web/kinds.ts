import type { Schemas } from "@/api/client";
import type { StepKind } from "@/features/fuses/model/sheetLayout";

/** Two kinds of step as the server offers them. */
export const kinds: StepKind[] = [
  {
    key: "channel-post",
    label: "Post in a channel",
    lane: "team",
    service: "ridgeboard",
    results: ["id", "url"],
    resultsFrom: null,
    settings: [
      { key: "channel", label: "Channel", type: "channel", optional: false },
      { key: "words", label: "Words", type: "words", optional: false },
    ],
  },
  {
    key: "text",
    label: "Text to the lead",
    lane: "lead",
    service: "copperline",
    results: ["id"],
    resultsFrom: null,
    settings: [{ key: "words", label: "Words", type: "words", optional: false }],
  },
];

const ops = ["one-of", "not-one-of", "filled", "empty"] as const;

/** A lead field with choices, and one that is free. */
export const fields: Schemas["ContextField"][] = [
  { key: "fleet_size", label: "Fleet size", choices: ["1–3", "25+"], type: "choice", ops: [...ops] },
  { key: "company", label: "Company", choices: [], type: "text", ops: [...ops, "contains"] },
];

/** What a fuse can refer to. */
export const around: Schemas["FuseContext"] = {
  files: [{ id: "prices", name: "Prices.pdf", size: 4096 }],
  forms: [
    { key: "page", name: "Book a test ride", source: "Pagewright", receives: true },
    { key: "plaza", name: "Test ride", source: "Plaza", receives: true },
  ],
  fields,
  channels: [{ key: "#ride-desk", name: "ride-desk" }],
  people: [{ key: "imke.sandoval", name: "Imke Sandoval" }],
  services: ["ridgeboard", "copperline"],
  kinds,
  sendHours: "08:00–20:30",
  zone: "Europe/London",
  facts: [
    { key: "history.came_before", label: "has come before", choices: [], type: "yes-no", ops: ["yes", "no"] },
    { key: "history.times_asked", label: "times they asked", choices: [], type: "number", ops: ["at-least", "between"] },
  ],
  events: [
    event("submission", "they send a form", true, true, true, [{ key: "form", label: "on the form", values: null }]),
    event("replied", "they reply", true, true, true, [
      { key: "meaning", label: "meaning", values: ["yes", "no", "choice"] },
      { key: "choice", label: "choosing", values: null },
    ]),
    event("touched", "somebody of the team reaches out", true, true, true),
    event("opted-out", "they want no more messages", true, true, true),
    event("tagged", "a tag is put on", true, true, true, [{ key: "tag", label: "the tag", values: null }]),
    event("stage-reached", "a stage is reached", true, true, true, [{ key: "stage", label: "the stage", values: null }]),
    { ...event("date-reached", "a date is reached", true, false, false), timed: true },
    { ...event("hour", "an hour comes round", true, false, false), timed: true },
  ],
  colleagues: [{ id: "u1", name: "Imke Sandoval", rep: true }],
  fuses: [{ id: "f2", name: "Nurture", armed: false }],
  words: [{ key: "thank_you", name: "Thank you", version: 2, words: "Many thanks", subject: null }],
  filters: [{ name: "day", example: "{{ now | day }}", makes: "Wednesday 25 November" }],
  stages: ["New", "Won"],
  tags: ["nurture"],
  sources: ["Pagewright", "Plaza"],
  connections: [{ id: "c1", kind: "ridgeboard", name: "Ridgeboard", fault: null }],
};

function event(
  key: string,
  sentence: string,
  lights: boolean,
  stops: boolean,
  enters: boolean,
  details: Schemas["EventDetail"][] = [],
): Schemas["ContextEvent"] {
  return { key, sentence, details, lights, stops, enters, timed: false };
}
