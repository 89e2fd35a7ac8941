import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, test } from "vitest";
import type { Schemas } from "@/api/client";
import { type Design, faultsAt, moved, nameFor, renamed, withField } from "@/features/builder/design";
import { guessField } from "@/features/sources/guessField";
import { pretty } from "@/features/sources/pretty";
import { DayMarks, WayLine } from "@/features/sources/WayLine";
import { accessWord, backWord, toLookAt, viaWord } from "@/features/sources/words";
import { highest, wayPlace } from "@/ui/wayScale";
import { show } from "./show";

const form: Schemas["FormRow"] = {
  id: "f1",
  clientId: "c1",
  client: "Brackenwheel",
  sourceId: "s1",
  source: "Plaza",
  sourceKind: "plaza",
  key: "ride",
  name: "Test ride",
  state: "receiving",
  place: null,
  adState: "running",
  archivedAt: null,
  built: false,
  published: false,
  map: "confirmed",
  submissions: 3,
  waiting: 0,
  unreadable: 0,
  lastAt: null,
  days: [],
  lateSeconds: null,
  emptyVisits: 0,
};

const field = (name: string, label = name): Design["fields"][number] => ({
  name,
  label,
  type: "text",
  required: false,
  choices: [],
  means: null,
  hidden: null,
});
const design: Design = {
  opening: null,
  fields: [field("question", ""), field("email", "Email"), field("size", "Size")],
  consent: null,
  lookOver: false,
  ending: { kind: "message", words: "Thanks", url: null, phone: null },
  endingIfKnown: null,
  amendLink: false,
  hosts: [],
  sendWords: "Send",
};

describe("how long things are under way", () => {
  test.each([
    [0, 0],
    [0.5, 0.1],
    [1, 0.2],
    [10, 0.4],
    [60, 0.6],
    [600, 0.8],
    [3600, 1],
    [90_000, 1],
    [-3, 0],
  ])("%d seconds stand at %d of the line", (seconds, place) => expect(wayPlace(seconds)).toBeCloseTo(place));

  test("a quiet form draws low", () => expect([highest([]), highest([0, 0]), highest([3, 8])]).toEqual([1, 1, 8]));

  test("the line says its span, and at once where nobody tells", () => {
    show(<WayLine late={164} />);
    expect(screen.getByRole("img", { name: "under way 2 m 44" })).toBeInTheDocument();
    show(<WayLine late={null} />);
    expect(screen.getByText("at once, from the page")).toBeInTheDocument();
  });

  test("the days say their sum and today", () => {
    show(<DayMarks days={[0, 4, 2]} />);
    expect(screen.getByRole("img", { name: "6 in fourteen days, 2 today" })).toBeInTheDocument();
  });
});

describe("what there is to look at", () => {
  test.each<[string, Partial<Schemas["FormRow"]>, string[]]>([
    ["nothing", {}, []],
    ["no map", { map: null }, ["map not confirmed"]],
    ["a map nobody confirmed", { map: "suggested" }, ["map not confirmed"]],
    ["paused, where the map does not matter", { state: "paused", map: null, waiting: 2 }, ["paused", "2 waiting"]],
    ["archived there, whatever its ad", { archivedAt: "2026-11-25T09:00:00Z", adState: "stopped" }, ["archived there"]],
    ["an ad that waits", { adState: "waiting" }, ["ad awaits approval"]],
    ["built and not published", { built: true, adState: null }, ["not published"]],
    [
      "all that can be wrong with what came",
      { unreadable: 1, emptyVisits: 4, waiting: 3 },
      ["3 waiting", "1 unreadable", "4 empty visits"],
    ],
  ])("%s", (_, change, words) => expect(toLookAt({ ...form, ...change }).map((l) => l.word)).toEqual(words));

  test("access, the way back and the way in are said in words", () => {
    expect(accessWord(null)).toBeNull();
    expect((["whole", "partial", "expired", "withdrawn", "unreachable"] as const).map((s) => accessWord(s)?.of)).toEqual([
      "whole",
      "broken",
      "broken",
      "broken",
      "waiting",
    ]);
    expect([
      backWord("connected")?.good,
      backWord("refused")?.good,
      backWord("stale")?.good,
      backWord("broken")?.good,
      backWord(null),
    ]).toEqual([true, false, false, false, null]);
    expect([viaWord("polled"), viaWord("something new")]).toEqual(["we asked for it", "something new"]);
  });
});

describe("bodies as people read them", () => {
  test.each([
    ["application/json", '{"a":{"b":1}}', '{\n  "a": {\n    "b": 1\n  }\n}'],
    ["application/json", "{broken", "{broken"],
    ["application/x-www-form-urlencoded; charset=utf-8", "a=J%C3%B6rg&b=x+y", "a = Jörg\nb = x y"],
    ["text/plain", "as it is", "as it is"],
  ])("%s %s", (type, raw, read) => expect(pretty(type, raw)).toBe(read));
});

describe("names for what is picked", () => {
  test.each([
    ["$.data.customer['e-mail']", [], "email"],
    ["$.guest.mobile", [], "phone"],
    ["$.guest.name", [], "full_name"],
    ["$.first", [], "first_name"],
    ["$.items[*].sku", [], "sku"],
    ["$.other.email", ["email"], "email_2"],
    ["$['???']", ["value"], "value_2"],
  ])("%s", (path, taken, name) => expect(guessField(path, taken)).toBe(name));
});

describe("a form that is built", () => {
  test("fields take their names from their words, never one that is taken", () => {
    expect(nameFor("Which City?", null, [])).toBe("which_city");
    expect(nameFor("Größe", null, [])).toBe("gro_e");
    expect(nameFor("???", null, ["question"])).toBe("question_2");
    expect(nameFor("Email", "email", [])).toBe("email");
  });

  test("a question renamed while it is written keeps its name once that is its own", () => {
    const written = renamed(design, 0, "Which city?");
    expect(written.fields[0]).toMatchObject({ label: "Which city?", name: "which_city" });
    expect(renamed(written, 0, "Which city now?").fields[0]?.name).toBe("which_city_now");
    expect(renamed(withField(written, 0, { name: "town" }), 0, "Which town?").fields[0]?.name).toBe("town");
  });

  test("fields move, and stay at the ends", () => {
    expect(moved(design, 0, 1).fields.map((f) => f.name)).toEqual(["email", "question", "size"]);
    expect(moved(design, 2, 1)).toBe(design);
    expect(moved(design, 0, -1)).toBe(design);
  });

  test("faults belong to a place and to what lies in it", () => {
    const faults = ["fields.1.label", "fields.10.label", "fields.1", "ending.url"].map((place) => ({ place, what: place, mend: "" }));
    expect(faultsAt(faults, "fields.1").map((f) => f.place)).toEqual(["fields.1.label", "fields.1"]);
  });
});

describe("a file that is uploaded", () => {
  test("its preview says what becomes of each row, and the reading is a sentence that can be changed", async () => {
    const { ImportPage } = await import("@/features/imports/ImportPage");
    const line: Schemas["ImportLine"] = {
      id: "i1",
      clientId: "c1",
      client: "Brackenwheel",
      source: "Files",
      formId: "f1",
      fileName: "fair.csv",
      bytes: 10,
      status: "ready",
      lights: false,
      rowsDone: 0,
      bytesDone: 0,
      newLeads: 0,
      updates: 0,
      doubles: 0,
      badRows: 0,
      reason: null,
      madeBy: "Noor",
      madeAt: "2026-11-25T09:41:07Z",
      startedAt: null,
      endedAt: null,
    };
    const asked = show(<ImportPage />, {
      path: "/sources/files/:importId",
      at: "/sources/files/i1",
      answers: {
        "GET /api/imports/i1": {
          import: line,
          reading: {
            kind: "csv",
            delimiter: ";",
            charset: "windows-1252",
            hasHeader: true,
            sheet: null,
            dates: "day-month-year",
            country: "GB",
            columns: [{ index: 0, header: "E-Mail", leadField: "email", because: "its header says so", isDate: false }],
          },
          sheets: [],
          leadFields: ["email"],
          ofSource: false,
          preview: {
            of: 2,
            whole: true,
            newLeads: 1,
            updates: 0,
            doubles: 0,
            badRows: 1,
            rows: [
              { row: 2, cells: ["a@example.com"], outcome: "new", reason: null },
              { row: 3, cells: [""], outcome: "bad", reason: "there is neither an email address nor a telephone number in it" },
            ],
            phonesRead: 0,
            phonesUnread: 0,
            phoneExample: null,
            dateExample: null,
          },
        },
        "PUT /api/imports/i1/reading": null,
        "POST /api/imports/i1/start": null,
      },
    });
    expect(await screen.findByText(/Of 2 rows/)).toHaveTextContent("1 new lead, 0 updates, 0 here already, 1 not readable.");
    const bad = screen.getByText("there is neither an email address nor a telephone number in it").closest("tr");
    expect(within(bad as HTMLElement).getByText("not readable")).toBeInTheDocument();
    await userEvent.selectOptions(screen.getByLabelText("Delimiter"), "commas");
    expect(asked.find((a) => a.method === "PUT")?.body).toMatchObject({ reading: { delimiter: ",", charset: "windows-1252" } });
    await userEvent.click(screen.getByRole("checkbox", { name: /Let them light fuses/ }));
    await userEvent.click(screen.getByRole("button", { name: "Import it" }));
    expect(asked.find((a) => a.method === "POST")?.body).toEqual({ lights: true });
  });
});
