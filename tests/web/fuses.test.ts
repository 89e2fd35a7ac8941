import { describe, expect, it } from "vitest";
import {
  type Edit,
  type History,
  history,
  isDirty,
  newId,
  withNewBand,
  withNewStep,
  withoutBand,
  withoutStep,
  withStep,
} from "@/features/fuses/model/editing";
import {
  type Definition,
  type Entry,
  entryOf,
  entrySentence,
  inSeconds,
  laneOf,
  lanesOf,
  lineOf,
  litByWords,
  momentWords,
  ruleParts,
  type StepKind,
  sayMoment,
  stopWords,
  ticketWords,
} from "@/features/fuses/model/sheetLayout";
import { around, kinds } from "./kinds";
import ruleSentences from "./ruleSentences.json";

const step = (id: string, kind = "channel-post", afterSeconds = 0) => ({
  id,
  name: id,
  kind,
  moment: inSeconds(afterSeconds),
  settings: { channel: "#ride-desk", words: "x" },
});
const fuse = (...bands: Definition["bands"]): Definition => ({ name: "Test ride", litBy: [{ event: "submission" }], bands });
const always = (...steps: ReturnType<typeof step>[]) => ({ id: "b1", name: "Always", entry: entryOf("always"), steps, eachTime: false });

describe("the sheet", () => {
  it.each([
    [0, "at once"],
    [90, "90 s"],
    [300, "5 min"],
    [7200, "2 h"],
    [86_400, "next day"],
    [259_200, "day 4"],
  ])("calls %d s %s", (seconds, words) => expect(momentWords(seconds)).toBe(words));

  it("stands a band's steps at the moments of its line, in their order", () => {
    const morning = { ...step("morning"), moment: { ...inSeconds(0), days: 1, at: "09:00" } };
    const noon = { ...step("noon"), moment: { ...inSeconds(0), days: 1, at: "12:00" } };
    const line = lineOf(always(step("late", "text", 3600), noon, step("sms", "text", 45), step("a"), morning, step("b")));
    expect(line.map((p) => [p.words, p.steps.map((s) => s.id)])).toEqual([
      ["at once", ["a", "b"]],
      ["45 s", ["sms"]],
      ["1 h", ["late"]],
      ["next day 09:00", ["morning"]],
      ["next day 12:00", ["noon"]],
    ]);
    expect(lineOf(always())).toEqual([]);
  });

  it("tells moments apart that count from the submission", () => {
    const line = lineOf(always(step("a", "text", 60), { ...step("b"), moment: { ...inSeconds(60), from: "submission" as const } }));
    expect(line.map((p) => p.steps.length)).toEqual([1, 1]);
  });

  it("draws the lanes that have steps, in one order", () => {
    const band = always(step("later", "channel-post", 60), step("sms", "text"), step("now"));
    expect(lanesOf(band, kinds)).toEqual(["lead", "team"]);
    expect(band.steps.map((s) => laneOf(s, kinds))).toEqual(["team", "lead", "team"]);
    expect(lanesOf(always(), kinds)).toEqual([]);
  });

  it("reads an entry as a sentence", () => {
    const say = (entry: Partial<Entry> & { kind: Entry["kind"] }) =>
      entrySentence({ ...always(), entry: { ...entryOf(entry.kind), ...entry } }, around, fuse(always(step("a"))))
        .map((p) => p.text)
        .join("");
    expect(say({ kind: "always" })).toBe("Always");
    expect(
      say({
        kind: "when",
        rules: {
          match: "any",
          rules: [
            { field: "fleet_size", op: "one-of", values: ["10–24", "25+"] },
            { field: "company", op: "empty", values: [] },
          ],
        },
      }),
    ).toBe("When fleet size is one of 10–24, 25+ or company is empty");
    expect(say({ kind: "when", rules: { match: "all", rules: [{ field: "fleet_size", op: "one-of", values: ["25+"] }] } })).toBe(
      "When fleet size is 25+",
    );
    expect(say({ kind: "when" })).toBe("When nothing is said yet");
    expect(say({ kind: "on", event: "replied", only: { meaning: ["yes", "choice"] } })).toBe("On a reply that means yes or choice");
    expect(say({ kind: "on", event: "replied", only: { choice: ["Tuesday"] } })).toBe("On a reply that chooses Tuesday");
    expect(say({ kind: "on", event: "replied" })).toBe("On any reply");
    expect(say({ kind: "on", event: "tagged", only: { tag: ["vip"] } })).toBe("When a tag is put on: vip");
    expect(say({ kind: "silence", of: "a", forSeconds: 7200 })).toBe("On silence for 2 h after a");
    expect(say({ kind: "failed" })).toBe("When any step fails");
    expect(say({ kind: "end", of: "b1" })).toBe("When Always has come to its end");
    expect(
      say({
        kind: "failed",
        of: "a",
        rules: {
          match: "all",
          rules: [{ field: "history.came_before", op: "yes", values: [] }],
          groups: [{ match: "any", rules: [{ field: "steps.s1.url", op: "filled", values: [] }] }],
        },
      }),
    ).toBe("When a fails, and has come before is yes and (s1 url is filled in)");
  });

  it.each(ruleSentences)("says rules as the server does: $says", ({ rules, says }) => {
    const labels = { fields: [{ key: "fleet_size", label: "fleet size" }], facts: [] } as unknown as typeof around;
    expect(
      ruleParts(rules as Parameters<typeof ruleParts>[0], labels)
        .map((p) => p.text)
        .join(""),
    ).toBe(says);
  });

  it.each([
    [inSeconds(0), "at once"],
    [inSeconds(600), "10 min"],
    [{ ...inSeconds(0), days: 1, at: "09:30" }, "next day 09:30"],
    [{ ...inSeconds(0), days: 12, working: true, from: "submission" as const }, "12 working days from submission"],
    [{ ...inSeconds(0), working: true, at: "08:30" }, "working day 08:30"],
  ])("says a moment", (moment, words) => expect(sayMoment(moment)).toBe(words));

  it("says what lights and what stops it", () => {
    expect(litByWords({ event: "submission", only: { form: ["page", "gone"] } }, around)).toBe(
      "they send a form: Book a test ride or gone (gone)",
    );
    expect(litByWords({ event: "hour", timer: { at: "10:00", days: 0, weekdays: [1, 5] } }, around)).toBe(
      "an hour comes round at 10:00 on Monday, Friday",
    );
    expect(litByWords({ event: "date-reached", timer: { at: "09:00", days: -7, field: "company" } }, around)).toBe(
      "a date is reached 7 days before company at 09:00",
    );
    expect(stopWords({ event: "tagged", only: { tag: ["junk"] } }, around)).toBe("a tag is put on: junk");
  });

  it("shows where a step goes, or its words with the fields named", () => {
    expect(ticketWords(step("a"))).toBe("#ride-desk");
    expect(
      ticketWords({
        ...step("a", "text"),
        settings: { words: '{{ lead.first_name | default: "Hello" }}, {% if x %}thank{% endif %} you' },
      }),
    ).toBe("‹first name›, thank you");
  });
});

describe("edits", () => {
  it("give new things ids of their own", () => {
    expect(newId(fuse(always(step("s1"), step("s2"))), "s")).toBe("s3");
    const made = withNewStep(fuse(always(step("s1"))), "b1", kinds[0] as StepKind, { channel: "#ride-desk" });
    expect(made.stepId).toBe("s2");
    expect(made.definition.bands[0]?.steps[1]).toMatchObject({
      name: "Post in a channel",
      settings: { channel: "#ride-desk", words: "{{ lead.name }} " },
    });
  });

  it("put a new band before the otherwise", () => {
    const { definition, bandId } = withNewBand(
      fuse(always(), { id: "o", name: "Otherwise", entry: entryOf("otherwise"), steps: [], eachTime: false }),
    );
    expect(definition.bands.map((b) => b.id)).toEqual(["b1", bandId, "o"]);
  });

  it("take out and change what they name and leave the rest as it is", () => {
    const before = fuse(always(step("a"), step("b")));
    expect(withoutStep(before, "a").bands[0]?.steps.map((s) => s.id)).toEqual(["b"]);
    expect(withStep(before, "b", (s) => ({ ...s, name: "B" })).bands[0]?.steps[0]).toBe(before.bands[0]?.steps[0]);
    expect(withoutBand(before, "b1").bands).toEqual([]);
  });
});

describe("undo and redo", () => {
  const start = fuse(always());
  const begin: History = { past: [], present: start, future: [], saved: start };
  const named = (name: string): Definition => ({ ...start, name });
  const run = (...edits: Edit[]) => edits.reduce(history, begin);

  it("go back and forth without limit", () => {
    const edits = Array.from({ length: 200 }, (_, i): Edit => ({ type: "edit", to: named(`n${i}`) }));
    const undone = [...Array(200)].reduce((s: History) => history(s, { type: "undo" }), run(...edits));
    expect(undone.present).toBe(start);
    expect(history(undone, { type: "undo" })).toBe(undone);
    const redone = [...Array(200)].reduce((s: History) => history(s, { type: "redo" }), undone);
    expect(redone.present.name).toBe("n199");
  });

  it("take letters typed one after another into one place as one step", () => {
    const typed = run(
      { type: "edit", to: named("a"), typing: "name" },
      { type: "edit", to: named("ab"), typing: "name" },
      { type: "edit", to: named("abc"), typing: "words" },
    );
    expect(history(typed, { type: "undo" }).present.name).toBe("ab");
    expect(history(history(typed, { type: "undo" }), { type: "undo" }).present).toBe(start);
  });

  it("know what is saved", () => {
    expect(isDirty(begin)).toBe(false);
    const edited = run({ type: "edit", to: named("x") });
    expect(isDirty(edited)).toBe(true);
    expect(isDirty(history(edited, { type: "saved", as: edited.present }))).toBe(false);
    expect(isDirty(history(edited, { type: "edit", to: named("Test ride") }))).toBe(false); // typed back to what it was
    expect(history(edited, { type: "load", to: named("theirs") })).toMatchObject({ past: [], present: { name: "theirs" } });
  });

  it("drop what was undone once something else is done", () => {
    const branched = history(run({ type: "edit", to: named("x") }, { type: "undo" }), { type: "edit", to: named("y") });
    expect(branched.future).toEqual([]);
  });
});
