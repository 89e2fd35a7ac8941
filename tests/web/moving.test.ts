import { describe, expect, it } from "vitest";
import type { Schemas } from "@/api/client";
import {
  momentBeside,
  momentOfDrop,
  stretchesOf,
  withBandMoved,
  withDropped,
  withMoved,
  withNudged,
  withPastedBand,
  withPastedStep,
} from "@/features/fuses/model/moving";
import { entryOf, inSeconds, lineOf } from "@/features/fuses/model/sheetLayout";

type Definition = Schemas["FuseDefinition"];

const step = (id: string, afterSeconds = 0, of: Partial<Schemas["Step"]> = {}): Schemas["Step"] => ({
  id,
  name: id,
  kind: "text",
  moment: inSeconds(afterSeconds),
  settings: { words: "Hello" },
  ...of,
});
const fuse: Definition = {
  name: "A fuse",
  litBy: [],
  bands: [
    {
      id: "b1",
      name: "Always",
      entry: entryOf("always"),
      eachTime: false,
      steps: [step("s1", 0, { onFailure: { retry: "usual", next: "instead", step: "s2" } }), step("s2", 300)],
    },
    { id: "b2", name: "Later", entry: entryOf("silence", { of: "s1", forSeconds: 60 }), eachTime: false, steps: [] },
  ],
};
const at = (definition: Definition, id: string) => {
  const band = definition.bands.find((b) => b.steps.some((s) => s.id === id));
  return [band?.id, band?.steps.find((s) => s.id === id)?.moment.afterSeconds];
};

describe("moments", () => {
  it("snap to those that people choose", () => {
    expect(momentBeside(inSeconds(0), true).afterSeconds).toBe(10);
    expect(momentBeside(inSeconds(37), true).afterSeconds).toBe(60);
    expect(momentBeside(inSeconds(37), false).afterSeconds).toBe(30);
    expect(momentBeside(inSeconds(0), false).afterSeconds).toBe(0);
    expect(momentBeside(inSeconds(3600), true).afterSeconds).toBe(7200);
  });

  it("on the calendar go day by day and keep their hour", () => {
    const moment = { afterSeconds: 0, days: 1, working: true, at: "09:30" };
    expect(momentBeside(moment, true)).toEqual({ ...moment, days: 2 });
    expect(momentBeside(momentBeside(moment, false), false)).toEqual({ ...moment, days: 0 });
  });

  it("are those among which a step is let go; on the band as such it keeps its own", () => {
    expect(momentOfDrop(inSeconds(90), { moment: inSeconds(300) }).afterSeconds).toBe(300);
    expect(momentOfDrop(inSeconds(90), { seconds: 3600 })).toEqual(inSeconds(3600));
    const morning = { afterSeconds: 0, days: 2, working: false, at: "09:00" };
    expect(momentOfDrop(morning, { seconds: 86_400 })).toEqual({ ...morning, days: 1 }); // keeps its hour
    expect(momentOfDrop(morning, { seconds: 60 })).toEqual(inSeconds(60));
    expect(momentOfDrop(morning, null)).toBe(morning);
  });
});

describe("the stretches of a line", () => {
  const line = (...seconds: number[]) => lineOf({ ...(fuse.bands[0] as Schemas["Band"]), steps: seconds.map((s, i) => step(`t${i}`, s)) });

  it("lead to the sensible moments before, between and after its own", () => {
    expect(stretchesOf(line(0, 300)).map((s) => s.seconds)).toEqual([null, 60, 600]);
    expect(stretchesOf(line(10, 20)).map((s) => s.seconds)).toEqual([0, null, 30]); // nothing sensible between 10 s and 20 s
    expect(stretchesOf(line(90 * 86_400)).map((s) => s.seconds)).toEqual([0, null]); // the last of all
  });

  it("are the longer the further apart their ends are", () => {
    const widths = stretchesOf(line(0, 10, 300, 86_400)).map((s) => s.width);
    expect(widths.slice(1, 4)).toEqual([...widths.slice(1, 4)].sort((a, b) => a - b));
    expect(new Set(widths.slice(1, 4)).size).toBe(3);
  });

  it("are one where nothing stands on it", () => {
    expect(stretchesOf([])).toHaveLength(1);
  });
});

describe("steps", () => {
  it("are nudged along the line and between bands", () => {
    expect(at(withNudged(fuse, "s2", "right"), "s2")).toEqual(["b1", 600]);
    expect(at(withNudged(fuse, "s2", "down"), "s2")).toEqual(["b2", 300]);
    expect(withNudged(fuse, "s2", "up")).toBe(fuse);
    expect(at(withDropped(fuse, "s2", "b2", { seconds: 0 }), "s2")).toEqual(["b2", 0]);
    expect(at(withDropped(fuse, "s2", "b2", null), "s2")).toEqual(["b2", 300]);
    expect(withDropped(fuse, "gone", "b2", null)).toBe(fuse);
  });

  it("let go of what stands in for them when one of the two moves away", () => {
    expect(withMoved(fuse, "s2", { band: "b2" }).bands[0]?.steps[0]?.onFailure).toEqual({ retry: "usual", next: "go-on", step: null });
    expect(withMoved(fuse, "s1", { band: "b2" }).bands[1]?.steps[0]?.onFailure?.next).toBe("go-on");
    expect(withMoved(fuse, "gone", { band: "b2" })).toBe(fuse);
  });

  it("are pasted under an id of their own", () => {
    const pasted = withPastedStep(fuse, "b2", step("s1", 60));
    expect(pasted.id).toBe("s3");
    expect(at(pasted.definition, "s3")).toEqual(["b2", 60]);
  });
});

describe("bands", () => {
  it("are pasted with what refers within them, and let go of what is not there", () => {
    const copied: Schemas["Band"] = {
      id: "b1",
      name: "Always",
      entry: entryOf("silence", { of: "far", forSeconds: 60 }),
      eachTime: false,
      steps: [
        step("s1"),
        step("s2", 60, {
          settings: { words: "See {{ steps.s1.url }}" },
          onFailure: { retry: "usual", next: "instead", step: "s1" },
        }),
      ],
    };
    const { definition, id } = withPastedBand(fuse, copied, "b1");
    expect(definition.bands.map((b) => b.id)).toEqual(["b1", id, "b2"]);
    const pasted = definition.bands[1];
    expect(pasted?.name).toBe("Always (copy)");
    expect(pasted?.entry.of).toBeNull();
    expect(pasted?.steps.map((s) => s.id)).toEqual(["s3", "s4"]);
    expect(pasted?.steps[1]?.settings.words).toBe("See {{ steps.s3.url }}");
    expect(pasted?.steps[1]?.onFailure?.step).toBe("s3");
  });

  it("move up and down and no further", () => {
    expect(withBandMoved(fuse, "b1", true).bands.map((b) => b.id)).toEqual(["b2", "b1"]);
    expect(withBandMoved(fuse, "b1", false)).toBe(fuse);
  });
});
