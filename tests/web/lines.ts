import type { Schemas } from "@/api/client";

const joint = (
  kind: Schemas["JointKind"],
  name: string,
  state: Schemas["LineState"] = "whole",
  words = `${name} holds.`,
): Schemas["Joint"] => ({ kind, name, state, words });

/** The joints of a line that is whole. */
export const joints: Schemas["Joint"][] = [
  joint("access", "Plaza", "whole", "Plaza lets us in."),
  joint("permissions", "permissions"),
  joint("form", "form", "whole", "It receives, and its ad runs."),
  joint("map", "map", "whole", "Version 3 is confirmed."),
  joint("fields", "fields"),
  joint("fuse", "fuse", "whole", "It lights “Test ride”."),
  joint("service", "Ridgeboard"),
  joint("hours", "hours"),
  joint("proof", "proof", "whole", "A lead went all the way: 4 s at the network, 180 ms with us."),
];

/** A line; cut where cuts are given. */
export function aLine(more: Partial<Schemas["LineRow"]> = {}): Schemas["LineRow"] {
  const cuts = more.cuts ?? [];
  return {
    formId: "f1",
    form: "Test ride",
    clientId: "c1",
    client: "Brackenwheel",
    sourceId: "s1",
    source: "Plaza",
    state: cuts.length > 0 ? "cut" : "whole",
    joints: joints.map((j) => ({
      ...j,
      state: cuts.some((c) => c.joint === j.kind) ? "cut" : j.state,
      words: cuts.find((c) => c.joint === j.kind)?.cause ?? j.words,
    })),
    cuts,
    waiting: 0,
    waitingSince: null,
    restsSince: null,
    provedAt: "2026-11-25T09:30:00Z",
    provedByTest: false,
    judgedAt: "2026-11-25T09:30:00Z",
    fuses: ["u1"],
    ...more,
  };
}
