import type { StepKind } from "@/features/fuses/sheetLayout";

/** Two kinds of step as the server offers them. */
export const kinds: StepKind[] = [
  {
    key: "channel-post",
    label: "Post in a channel",
    lane: "team",
    service: "ridgeboard",
    settings: [
      { key: "channel", label: "Channel", type: "channel" },
      { key: "words", label: "Words", type: "words" },
    ],
  },
  {
    key: "text",
    label: "Text to the lead",
    lane: "lead",
    service: "copperline",
    settings: [{ key: "words", label: "Words", type: "words" }],
  },
];
