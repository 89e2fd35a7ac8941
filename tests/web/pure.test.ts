import { describe, expect, it } from "vitest";
import { Problem } from "@/api/client";
import { chosenOf, withClient } from "@/app/useChosenClient";
import { rank } from "@/features/frame/rank";
import { staleKeys } from "@/features/frame/useLive";
import { splitWords } from "@/features/fuses/model/words";
import { markOf, sayLine } from "@/features/leads/storyWords";
import { sayBurnLine } from "@/ui/BurnLine";
import { marks, placeOf } from "@/ui/burnScale";
import { cityOf, clock, day, dayAndClock, dayOrClock, runningSpan, secondsBetween, span } from "@/ui/time";

describe("the bent axis", () => {
  it.each([
    [0, 300, 0],
    [-5, 300, 0],
    [10, 300, marks.tenSeconds],
    [60, 300, marks.minute],
    [300, 300, marks.target],
    [600, 300, marks.twice],
    [600, 600, marks.target], // targets of different clients line up
    [30, 30, marks.target], // a target within the first minute
    [5, 5, marks.target],
  ])("puts %d s of a target of %d s at %d", (seconds, target, place) => expect(placeOf(seconds, target)).toBeCloseTo(place, 10));

  it("never goes back and never leaves the line", () => {
    for (const target of [5, 30, 60, 300, 50_000]) {
      let before = 0;
      for (let s = 0; s < target * 40; s += target / 37) {
        const place = placeOf(s, target);
        expect(place).toBeGreaterThanOrEqual(before);
        expect(place).toBeLessThan(1);
        before = place;
      }
    }
  });
});

describe("times", () => {
  it.each([
    [0, "0 s"],
    [-3, "0 s"],
    [0.0123, "12 ms"],
    [1.24, "1.2 s"],
    [41.9, "41 s"],
    [552, "9 m 12"],
    [3600, "1 h 00"],
    [11_100, "3 h 05"],
    [345_600, "4 days"],
  ])("tells %d s as %s", (seconds, words) => expect(span(seconds)).toBe(words));

  it("does not flicker below a minute while it runs", () =>
    expect([runningSpan(0.4), runningSpan(9.9), runningSpan(61)]).toEqual(["0 s", "9 s", "1 m 01"]));

  it("tells the clock where they are", () => {
    expect(clock("2026-11-24T09:41:07Z", "Europe/London")).toBe("09:41:07");
    expect(clock("2026-11-24T09:41:07Z", "America/Toronto", false)).toBe("04:41");
    expect(cityOf("America/St_Johns")).toBe("St Johns");
  });

  it("leaves the day out when it is today, by that place's own midnight", () => {
    const now = Date.parse("2026-11-24T02:00:00Z");
    expect(day("2026-11-24T00:30:00Z", now, "Europe/London")).toBe("");
    expect(day("2026-11-23T23:30:00Z", now, "Europe/London")).toBe("yesterday");
    expect(day("2026-11-23T23:30:00Z", now, "America/Toronto")).toBe("");
    expect([dayOrClock("2026-11-24T00:30:00Z", now, "Europe/London"), dayOrClock("2026-11-03T10:00:00Z", now, "Europe/London")]).toEqual([
      "00:30",
      "Tue 3 Nov",
    ]);
    expect(dayAndClock("2026-11-03T10:00:00Z", now, "Europe/London")).toBe("Tue 3 Nov 10:00");
    expect(secondsBetween("2026-11-24T00:00:00Z", "2026-11-24T00:01:30Z")).toBe(90);
  });
});

describe("the line in words", () => {
  const asked = "2026-11-24T09:00:00Z";
  const ticks = [{ at: "2026-11-24T09:00:00.2Z", kind: "team" }];
  it.each([
    [60, false, null, "Waiting 1 m 00, 4 m 00 to the target; team after 200 ms"],
    [400, false, "Imke Sandoval", "Waiting 6 m 40, 1 m 40 past the target; Imke Sandoval has it; team after 200 ms"],
    [90, true, "Imke Sandoval", "Touched 1 m 30 after they asked; team after 200 ms"],
  ])("says %d s, touched %s", (burnt, done, takenBy, words) => expect(sayBurnLine(burnt, 300, done, ticks, asked, takenBy)).toBe(words));
});

describe("the story in words", () => {
  const line = {
    kind: "band-passed" as const,
    words: "fleet size was 1–3, not one of 25+",
    person: null,
    step: null,
    band: "Big fleets",
    fuse: "f",
  };
  it("says what happened and why", () => {
    expect(sayLine(line)).toEqual({ what: "Band “Big fleets” passed by:", why: line.words });
    expect(sayLine({ ...line, kind: "taken", person: "Imke" }).what).toBe("Imke has it");
    expect(sayLine({ ...line, kind: "text-delivered", words: "reached the phone" })).toEqual({
      what: "The text:",
      why: "reached the phone",
    });
  });

  it("draws failures, people and waiting apart", () => {
    expect([
      markOf("step-failed"),
      markOf("touched"),
      markOf("step-waits"),
      markOf("step-done"),
      markOf("submitted"),
      markOf("band-lit"),
    ]).toEqual(["failed", "person", "waits", "went", "arrived", "thought"]);
  });
});

describe("go to / do", () => {
  const things = ["Leads", "Test ride: tell the desk", "Watch", "Book a test ride", "Use the dark look"];
  it("puts beginnings before middles and leaves out what does not fit", () => {
    expect(rank(things, "test", String)).toEqual(["Test ride: tell the desk", "Book a test ride"]);
    expect(rank(things, "drk", String)).toEqual(["Use the dark look"]);
    expect(rank(things, "zzz", String)).toEqual([]);
    expect(rank(things, "", String)).toEqual(things);
  });
});

describe("what is fetched anew", () => {
  it("follows what changed", () => {
    expect(staleKeys("lead", ["a"])).toEqual([["watch"], ["frame"], ["leads"], ["deliveries"], ["burns"], ["calls"], ["lead", "a"]]);
    expect(staleKeys("fuse", [])).toEqual([["fuses"], ["frame"], ["fuse"]]);
    expect(staleKeys("weather", ["a"])).toEqual([]);
  });
});

describe("the chosen client", () => {
  const client = (key: string) => ({
    id: key,
    key,
    name: key,
    shortName: key,
    zone: "Europe/London",
    currency: "GBP",
    targetSeconds: 300,
    role: "rep" as const,
    may: [],
  });
  const person = (...keys: string[]) => ({
    id: "p",
    name: "P",
    email: "p@example.com",
    takesCalls: true,
    now: "",
    clients: keys.map(client),
  });
  it("stands in the address, and is always chosen for who has but one", () => {
    expect(chosenOf(person("a", "b"), "b")?.key).toBe("b");
    expect(chosenOf(person("a", "b"), "c")).toBeNull();
    expect(chosenOf(person("a"), null)?.key).toBe("a");
    expect(withClient("/leads?q=x", "a")).toBe("/leads?q=x&client=a");
    expect(withClient("/leads", undefined)).toBe("/leads");
  });
});

describe("words with fields", () => {
  it("are cut at their fields", () =>
    expect(splitWords("Hi {{ lead.first_name }},\n{% for a in answers %}x{% endfor %}")).toEqual([
      { text: "Hi ", field: false },
      { text: "{{ lead.first_name }}", field: true },
      { text: ",\n", field: false },
      { text: "{% for a in answers %}", field: true },
      { text: "x", field: false },
      { text: "{% endfor %}", field: true },
    ]));
});

describe("a refusal", () => {
  it("keeps its code, mend and the fault of each field", () => {
    const problem = Problem.from(400, {
      code: "bad-input",
      title: "T",
      detail: "D",
      mend: "M",
      errors: { words: ["Write the text first."] },
    });
    expect([problem.code, problem.mend, problem.fieldError("words"), problem.fieldError("other"), problem.message]).toEqual([
      "bad-input",
      "M",
      "Write the text first.",
      null,
      "D",
    ]);
    expect(Problem.from(502, undefined).title).toBe("The server answered 502.");
  });
});
