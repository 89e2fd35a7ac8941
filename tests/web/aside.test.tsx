import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { ClientStrip } from "@/features/frame/ClientStrip";
import { staleKeys } from "@/features/frame/useLive";
import { Belongs } from "@/features/leads/LeadBelongs";
import { LeadFilters } from "@/features/leads/LeadFilters";
import { LeadPage } from "@/features/leads/LeadPage";
import { markOf, sayLine } from "@/features/leads/storyWords";
import { MakeField } from "@/features/mapping/MakeField";
import { MatchChoices } from "@/features/mapping/MatchChoices";
import { MapTable } from "@/features/sources/MapTable";
import { nothingAround, person, show } from "./show";

afterEach(() => vi.unstubAllGlobals());

const row: Schemas["LeadRow"] = {
  id: "l1",
  clientId: "c1",
  name: "Ines Calloway",
  email: "ines@example.com",
  phone: null,
  form: "Book a test ride",
  source: "Pagewright",
  test: false,
  asked: "25+",
  askedAt: "2026-11-25T09:31:07Z",
  targetAt: "2026-11-25T09:36:07Z",
  takenBy: null,
  takenAt: null,
  firstTouchAt: null,
  firstTouchBy: null,
  ticks: [],
  owner: null,
  tags: [],
  doNotContact: false,
  fields: {},
};
const choices: Schemas["LeadChoices"] = {
  owners: [
    { id: "u1", name: "Tobias Renn" },
    { id: "u2", name: "Imke Sandoval" },
  ],
  tags: ["big fleet", "spring"],
  forms: [{ id: "f1", name: "Book a test ride" }],
  sources: [{ id: "s1", name: "Plaza" }],
  views: [],
  stages: ["New", "Won"],
  fuses: [],
};

describe("who answers for a lead, and its tags", () => {
  const whole = {
    lead: row,
    clientKey: "brackenwheel",
    stage: "New",
    stages: ["New", "Won"],
    submissions: [],
    around: { ...nothingAround, owner: "Imke Sandoval", tags: ["big fleet"] },
  };
  const answers = { "GET /api/leads/choices": choices, "POST /api/leads/change": { changed: 1 } };

  test("is given to somebody else", async () => {
    const asked = show(<Belongs whole={whole as unknown as Schemas["LeadDetail"]} mayTouch />, { answers });
    await waitFor(() => expect(screen.getByLabelText("Owner")).toHaveValue("u2"));
    await userEvent.selectOptions(screen.getByLabelText("Owner"), "Tobias Renn");
    expect(asked.find((a) => a.method === "POST")?.body).toMatchObject({ ids: ["l1"], owner: "u1", tag: null });
  });

  test("gets a tag by typing, and loses one by a press", async () => {
    const asked = show(<Belongs whole={whole as unknown as Schemas["LeadDetail"]} mayTouch />, { answers });
    await userEvent.type(screen.getByLabelText("Put a tag on"), "spring{Enter}");
    await userEvent.click(screen.getByRole("button", { name: "Take the tag big fleet off" }));
    const sent = asked.filter((a) => a.method === "POST").map((a) => a.body as Record<string, unknown>);
    expect(sent[0]).toMatchObject({ tag: "spring", untag: null });
    expect(sent[1]).toMatchObject({ tag: null, untag: "big fleet" });
  });

  test("is only told to who may not change it", () => {
    show(<Belongs whole={whole as unknown as Schemas["LeadDetail"]} mayTouch={false} />, { answers });
    expect(screen.getByText("Imke Sandoval")).toBeInTheDocument();
    expect(screen.queryByLabelText("Put a tag on")).not.toBeInTheDocument();
  });
});

test("a link to a lead that turned out to be another leads on to them", async () => {
  const gone = { status: 404, body: { code: "not-there", title: "There is nothing here.", mergedInto: "kept" } };
  show(<LeadPage />, { path: "/leads/gone-away", at: "/leads/gone-away", answers: { "GET /api/leads/": gone } });
  expect(await screen.findByText("elsewhere")).toBeInTheDocument();
});

describe("what narrows a list", () => {
  const filters = (over: Partial<Parameters<typeof LeadFilters>[0]> = {}) => {
    const onChange = vi.fn();
    const onView = vi.fn();
    const asked = show(
      <LeadFilters
        filter={{}}
        choices={choices}
        fields={["fleet_size"]}
        columns={["what"]}
        query=""
        onChange={onChange}
        onView={onView}
        {...over}
      />,
      { answers: { "POST /api/leads/views": { id: "v", name: "Mine", query: "state=late" }, "DELETE /api/leads/views/v": null } },
    );
    return { onChange, onView, asked };
  };

  test("each part is a change of the address", async () => {
    const { onChange } = filters();
    await userEvent.selectOptions(screen.getByLabelText("Who"), "late");
    expect(onChange).toHaveBeenLastCalledWith({ state: "late" });
    await userEvent.selectOptions(screen.getByLabelText("Owner"), "no owner");
    expect(onChange).toHaveBeenLastCalledWith({ owner: "nobody" });
    await userEvent.selectOptions(screen.getByLabelText("Tag"), "spring");
    expect(onChange).toHaveBeenLastCalledWith({ tag: "spring" });
    await userEvent.click(screen.getByRole("button", { name: "More" }));
    await userEvent.selectOptions(screen.getByLabelText("Tests"), "tests only");
    expect(onChange).toHaveBeenLastCalledWith({ tests: "only" });
    await userEvent.selectOptions(screen.getByLabelText("Source"), "Plaza");
    expect(onChange).toHaveBeenLastCalledWith({ source: "s1" });
  });

  test("what is narrowed stands open, with the value of a field", async () => {
    const { onChange } = filters({ filter: { field: "fleet_size", is: "25+" } });
    const value = screen.getByLabelText("What stands in fleet size");
    expect(value).toHaveValue("25+");
    await userEvent.clear(value);
    await userEvent.type(value, "4–9{Enter}");
    expect(onChange).toHaveBeenLastCalledWith({ is: "4–9" });
  });

  test("a view is kept by name, and forgotten", async () => {
    const { asked } = filters({ query: "state=late" });
    await userEvent.click(screen.getByRole("button", { name: "Keep this view" }));
    await userEvent.type(screen.getByLabelText("The view's name"), "Mine{Enter}");
    await waitFor(() => expect(asked.at(-1)?.body).toEqual({ name: "Mine", query: "state=late" }));
  });

  test("columns are put in and taken out", async () => {
    const { onChange } = filters({ filter: { tests: "only" } });
    await userEvent.click(screen.getByRole("button", { name: "Columns 2" }));
    await userEvent.click(screen.getByLabelText("fleet size"));
    expect(onChange).toHaveBeenLastCalledWith({ columns: "what,fleet_size" });
    await userEvent.click(screen.getByLabelText("what they asked"));
    expect(onChange).toHaveBeenLastCalledWith({ columns: "" });
  });
});

describe("a field made where it is missed", () => {
  test("takes the form's choices along", async () => {
    const onMade = vi.fn();
    const asked = show(<MakeField client="brackenwheel" label="Size" choices={["big", "small"]} onMade={onMade} onClose={vi.fn()} />, {
      answers: {
        "POST /api/lead-fields": { key: "size", label: "Size", type: "choice", choices: ["big", "small"], rule: "newest-wins", own: true },
      },
    });
    expect(screen.getByLabelText("Choices, one a line")).toHaveValue("big\nsmall");
    await userEvent.click(screen.getByRole("button", { name: "Make the field" }));
    await waitFor(() => expect(onMade).toHaveBeenCalledWith("size"));
    expect(asked[0]?.body).toMatchObject({ label: "Size", type: "choice", choices: ["big", "small"] });
  });

  test("says why it was not made", async () => {
    show(<MakeField client="brackenwheel" label="Company" choices={[]} onMade={vi.fn()} onClose={vi.fn()} />, {
      answers: {
        "POST /api/lead-fields": {
          status: 400,
          body: { code: "bad-input", detail: "There is a field “company” already.", errors: { label: ["x"] } },
        },
      },
    });
    await userEvent.click(screen.getByRole("button", { name: "Make the field" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("There is a field “company” already.");
  });
});

test("answers that differ only in case, accents or dashes need no matching", () => {
  const draft = { field: "size", to: "fleet_size", with: [], joiner: " ", constant: null, choices: {} };
  show(<MatchChoices row={draft} answers={["4-9", "10–24", "GRÖSSE 1"]} choices={["4–9", "10-24", "Grösse 1"]} may onChange={vi.fn()} />);
  expect(screen.queryByText(/none of the field's choices/)).not.toBeInTheDocument();
});

test("a choice that was matched is kept as typed again", async () => {
  const onChange = vi.fn();
  const draft = { field: "size", to: "fleet_size", with: [], joiner: " ", constant: null, choices: { lots: "25+" } };
  show(<MatchChoices row={draft} answers={["lots"]} choices={["4–9", "25+"]} may onChange={onChange} />);
  await userEvent.click(screen.getByRole("button", { name: "Say what they mean" }));
  await userEvent.selectOptions(screen.getByLabelText("lots is the choice"), "kept as typed");
  expect(onChange).toHaveBeenCalledWith({});
});

test("the strip says of each client and of all that a line is cut, and who waits for it", () => {
  const counts = [
    { id: "c1", key: "brackenwheel", inTheAir: 5, late: 0, linesCut: 1, waiting: 4, heldAt: null, heldBy: null, heldBack: 0 },
  ];
  show(<ClientStrip person={person as never} chosen={undefined} counts={counts} onGo={vi.fn()} />);
  expect(screen.getByTitle("1 line is cut; 4 wait for it")).toHaveTextContent("1 cut, 4 wait");
});

test("a confirmed map is told with its version, and leads to where it is changed", () => {
  const whole = {
    form: { id: "f1", map: "confirmed", waiting: 0, state: "receiving" },
    fields: [
      { name: "mail", label: "Your email", type: "email", required: true, choices: [], leadField: "email", seen: false },
      { name: "hill", label: "Favourite hill", type: "text", required: false, choices: [], leadField: null, seen: true },
    ],
    mapVersion: 3,
    confirmedBy: "Noor Abernathy-Voss",
    confirmedAt: "2026-11-25T09:00:00Z",
    mapByItsMaker: false,
  } as unknown as Schemas["FormDetail"];
  show(
    <MapTable
      whole={whole}
      given={new Map([["mail", "ines@example.com"]])}
      may
      zone="Europe/London"
      now={Date.parse("2026-11-25T09:41:07Z")}
    />,
  );
  expect(screen.getByText(/version 3, by Noor Abernathy-Voss/)).toBeInTheDocument();
  expect(screen.getByText("its own name, or left out")).toBeInTheDocument();
  expect(screen.getByRole("link", { name: "Change the map" })).toHaveAttribute("href", "/sources/f1/map");
});

describe("new lines of a story", () => {
  const line = (kind: Schemas["StoryKind"], words: string, by: string | null = null) => ({
    kind,
    words,
    person: by,
    step: null,
    band: null,
    fuse: null,
  });
  test.each([
    ["approved", "after 7 min in the holding pen", "Imke Sandoval", "Imke Sandoval approved it", "person"],
    ["fields-changed", "Fleet size: 4–9 → 10–24", null, "Now:", "thought"],
    ["consented", "they agreed: “…”", null, "Consent:", "arrived"],
    ["opt-in-asked", "a@example.com is asked", null, "Waits for them:", "waits"],
    ["opt-in-confirmed", "a@example.com confirmed", null, "Confirmed:", "arrived"],
    ["opt-in-expired", "did not confirm", null, "Not confirmed:", "failed"],
    ["do-not-contact", "was put on the list", null, "Do not contact:", "failed"],
    ["merged", "turned out to be the same", "Noor", "Noor:", "person"],
    ["split", "another person", "Noor", "Noor:", "person"],
    ["regroup-undone", "was taken back", "Noor", "Noor:", "person"],
    ["reprocessed", "through version 2", null, "Read again,", "thought"],
    ["tagged", "tagged spring", "Noor", "Noor:", "person"],
    ["owner-changed", "Tobias answers", "Noor", "Noor:", "person"],
  ] as const)("%s", (kind, words, by, what, mark) => {
    expect(sayLine(line(kind, words, by))).toEqual({ what, why: words });
    expect(markOf(kind)).toBe(mark);
  });
});

test("what changed in the pen, or between two leads, is fetched anew", () => {
  expect(staleKeys("pen", ["f1"])).toEqual([["pen"], ["frame"], ["watch"], ["forms"], ["form", "f1"]]);
  expect(staleKeys("conflict", ["l1"])).toEqual([["conflicts"], ["frame"], ["watch"], ["lead", "l1"]]);
});
