import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { usualLeadColumns } from "@/api/words";
import { columnsOf, exported, headingOf } from "@/features/leads/columns";
import { Consents, Submissions, Warnings } from "@/features/leads/LeadAside";
import { LeadsPage } from "@/features/leads/LeadsPage";
import { exportUrl, narrowingOf } from "@/features/leads/useLeadList";
import { SamePage } from "@/features/merging/SamePage";
import { PenPage } from "@/features/pen/PenPage";
import { DoNotContact } from "@/features/setup/DoNotContact";
import { LeadFields } from "@/features/setup/LeadFields";
import { MailServer } from "@/features/setup/MailServer";
import { Tests } from "@/features/setup/Tests";
import { LinesDown } from "@/features/watch/LinesDown";
import { serverNow } from "@/ui/serverClock";
import { aLine } from "./lines";
import { nothingAround, show } from "./show";

const now = Date.parse("2026-11-25T09:41:07Z");
const frame = { clients: [], leads: 3, forms: 1, fuses: 1, held: 2, conflicts: 1, stuck: 0, tray: 2, now: "2026-11-25T09:41:07Z" };
const held = (over: Partial<Schemas["HeldRow"]> = {}): Schemas["HeldRow"] => ({
  id: "h1",
  clientId: "c1",
  client: "Brackenwheel",
  formId: "f",
  form: "Book a test ride",
  name: "QeXvLo",
  email: "x@tempmail.example",
  phone: "123",
  answers: [{ question: "First name", answer: "QeXvLo" }],
  askedAt: "2026-11-25T09:31:07Z",
  heldAt: "2026-11-25T09:31:08Z",
  why: "junk 85: tempmail.example gives out addresses to throw away",
  junk: 85,
  junkBecause: [],
  test: false,
  refused: false,
  decidedBy: null,
  decidedAt: null,
  known: null,
  ...over,
});
const row = (over: Partial<Schemas["LeadRow"]> = {}): Schemas["LeadRow"] => ({
  id: "l1",
  clientId: "c1",
  name: "Ines Calloway",
  email: "ines@example.com",
  phone: "+447700900512",
  form: "Book a test ride",
  source: "Pagewright",
  test: false,
  asked: "25+, food",
  askedAt: "2026-11-25T09:31:07Z",
  targetAt: "2026-11-25T09:36:07Z",
  takenBy: null,
  takenAt: null,
  firstTouchAt: null,
  firstTouchBy: null,
  ticks: [],
  owner: "Tobias Renn",
  tags: ["big fleet"],
  doNotContact: false,
  fields: { fleet_size: "25+" },
  ...over,
});
const choices: Schemas["LeadChoices"] = {
  owners: [{ id: "u1", name: "Tobias Renn" }],
  tags: ["big fleet"],
  forms: [{ id: "f", name: "Book a test ride" }],
  sources: [{ id: "s", name: "Pagewright" }],
  views: [{ id: "v1", name: "Late ones", query: "state=late" }],
  stages: ["New", "Spoken"],
  fuses: [{ id: "f1", clientId: "c", name: "Nurture" }],
};

afterEach(() => vi.unstubAllGlobals());

describe("the holding pen", () => {
  const pen = { rows: [held(), held({ id: "h2", name: "Gareth Pell", known: "Hal Wetherby" })], held: 2, refused: 1 };
  test("says why each waits, and approves one with a key", async () => {
    const asked = show(<PenPage />, { answers: { "GET /api/pen": pen, "GET /api/frame": frame, "POST /api/pen/approve": { done: 1 } } });
    expect(await screen.findAllByText(/tempmail.example gives out addresses/)).toHaveLength(2);
    expect(screen.getByText("known: Hal Wetherby")).toBeInTheDocument();
    await userEvent.keyboard("ja");
    await waitFor(() => expect(asked.find((a) => a.path === "/api/pen/approve")?.body).toEqual({ ids: ["h2"], reason: null }));
  });
  test("refuses many at once, and not without a reason", async () => {
    const asked = show(<PenPage />, { answers: { "GET /api/pen": pen, "GET /api/frame": frame, "POST /api/pen/refuse": { done: 2 } } });
    await userEvent.click(await screen.findByRole("button", { name: "Choose all" }));
    const refuse = screen.getByRole("button", { name: "Refuse 2 of them" });
    expect(refuse).toBeDisabled();
    await userEvent.type(screen.getByLabelText("Why refused"), "sells shoes");
    await userEvent.click(refuse);
    expect(asked.find((a) => a.path === "/api/pen/refuse")?.body).toEqual({ ids: ["h1", "h2"], reason: "sells shoes" });
    expect(await screen.findByText("2 refused.")).toBeInTheDocument();
  });
  test("says what will be here when nothing is", async () => {
    show(<PenPage />, { answers: { "GET /api/pen": { rows: [], held: 0, refused: 0 }, "GET /api/frame": frame } });
    expect(await screen.findByText("Nothing waits.")).toBeInTheDocument();
  });
});

describe("same person?", () => {
  const side = (id: string, name: string): Schemas["ConflictSide"] => ({
    id,
    name,
    email: null,
    phone: null,
    askedAt: "2026-11-25T09:31:07Z",
    submissions: 1,
    fields: { first_name: name, junk_score: "9" },
  });
  const pair: Schemas["ConflictRow"] = {
    id: "k",
    client: "Brackenwheel",
    words: "a@example.com is Ines, +44 is Hal",
    foundAt: "2026-11-25T09:31:07Z",
    state: "open",
    decidedBy: null,
    decidedAt: null,
    left: side("a", "Ines"),
    right: side("b", "Hal"),
    regroupId: null,
  };
  test("shows both, and makes them one as either", async () => {
    const asked = show(<SamePage />, {
      answers: {
        "GET /api/conflicts": { rows: [pair], open: 1 },
        "GET /api/frame": frame,
        "POST /api/leads/merge": { id: "r", leadId: "b" },
      },
    });
    await userEvent.click(await screen.findByRole("button", { name: "One person, as Hal" }));
    expect(asked.find((a) => a.path === "/api/leads/merge")?.body).toEqual({ keep: "b", gone: "a" });
    expect(screen.queryByText("junk score")).not.toBeInTheDocument();
  });
  test("keeps them apart, and takes a merge back", async () => {
    const merged = {
      ...pair,
      id: "m",
      state: "merged" as const,
      decidedBy: "Noor",
      decidedAt: "2026-11-25T09:35:07Z",
      right: null,
      regroupId: "r9",
    };
    const asked = show(<SamePage />, {
      answers: {
        "GET /api/conflicts": { rows: [pair, merged], open: 1 },
        "GET /api/frame": frame,
        "POST /api/conflicts/k/apart": null,
        "POST /api/regroups/r9/undo": { id: "r9", leadId: "a" },
      },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Two people" }));
    await userEvent.click(screen.getByRole("button", { name: "Take the merge back" }));
    expect(asked.filter((a) => a.method === "POST").map((a) => a.path)).toEqual(["/api/conflicts/k/apart", "/api/regroups/r9/undo"]);
  });
});

describe("the list of leads", () => {
  const list = { items: [row(), row({ id: "l2", name: "Hal Wetherby", doNotContact: true })], total: 240, page: 1, pageSize: 100 };
  const answers = {
    "GET /api/leads": list,
    "GET /api/leads/choices": choices,
    "GET /api/frame": frame,
    "GET /api/lead-fields": { fields: [] },
    "POST /api/leads/change": { changed: 240 },
  };
  test("tags all that fit the filter in the address", async () => {
    const asked = show(<LeadsPage />, { at: "/leads?state=late&q=food", answers });
    await userEvent.click(await screen.findByLabelText("Choose all on this page"));
    await userEvent.click(screen.getByRole("button", { name: "Choose all 240 that fit" }));
    await userEvent.type(screen.getByLabelText("Tag", { selector: "input" }), "spring");
    await userEvent.click(screen.getByRole("button", { name: "Tag" }));
    expect(asked.find((a) => a.path === "/api/leads/change")?.body).toMatchObject({
      ids: null,
      tag: "spring",
      filter: { state: "late", q: "food", client: "brackenwheel" },
    });
    expect(await screen.findByText("240 changed.")).toBeInTheDocument();
  });
  test("gives the chosen ones to somebody, and shows who is not to be contacted", async () => {
    const asked = show(<LeadsPage />, { at: "/leads", answers });
    expect(await screen.findByText("do not contact")).toBeInTheDocument();
    await userEvent.keyboard("jx");
    await userEvent.selectOptions(screen.getByLabelText("Give them to"), "Tobias Renn");
    expect(asked.find((a) => a.path === "/api/leads/change")?.body).toMatchObject({ ids: ["l1"], owner: "u1", filter: null });
  });
  test("keeps columns and filters in the address, and takes up a kept view", async () => {
    show(<LeadsPage />, { at: "/leads?columns=owner,tags,fleet_size", answers });
    expect(await screen.findByRole("columnheader", { name: "fleet size" })).toBeInTheDocument();
    expect(screen.getAllByText("Tobias Renn").length).toBeGreaterThan(1);
    const csv = screen.getByRole("link", { name: "CSV" });
    expect(csv.getAttribute("href")).toBe("/api/leads/export?format=csv&columns=name%2Cowner%2Ctags%2Cfleet_size&client=brackenwheel");
    await userEvent.selectOptions(screen.getByLabelText("Views you keep"), "Late ones");
    expect(screen.getByLabelText("Who")).toHaveValue("late");
    expect(screen.getByRole("button", { name: "Forget “Late ones”" })).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "More" }));
    await userEvent.click(screen.getByRole("button", { name: /Columns/ }));
    await userEvent.click(within(screen.getByRole("group", { name: "Columns" })).getByLabelText("tags"));
    expect(screen.getByRole("columnheader", { name: "tags" })).toBeInTheDocument();
  });
  it("names columns and files as the export does", () => {
    expect(columnsOf(null)).toEqual(usualLeadColumns);
    expect(headingOf("depot_postcode")).toBe("depot postcode");
    expect(exported(["through", "asked"])).toEqual(["name", "form", "source", "asked"]);
    expect(narrowingOf(new URLSearchParams("q=a&page=3&sort=name&nonsense=1"))).toEqual({ q: "a", sort: "name" });
    expect(exportUrl("xlsx", "brackenwheel", { q: "a b" }, ["name"])).toBe(
      "/api/leads/export?format=xlsx&columns=name&client=brackenwheel&q=a+b",
    );
  });
});

describe("around a lead", () => {
  const whole = (
    over: Partial<Schemas["LeadContext"]>,
    lead: Partial<Schemas["LeadRow"]> = {},
    submissions: Schemas["LeadSubmission"][] = [],
  ) =>
    ({
      lead: row(lead),
      clientKey: "brackenwheel",
      submissions,
      around: { ...nothingAround, ...over },
    }) as unknown as Schemas["LeadDetail"];
  const part = { mayTouch: true, now, zone: "Europe/London" };
  test("warns of what stands in the way, and lets a doubt be decided", async () => {
    const asked = show(
      <Warnings
        {...part}
        whole={whole(
          {
            doNotContactAt: "2026-11-20T09:00:00Z",
            waitsToConfirm: "2026-11-25T09:00:00Z",
            confirmExpiresAt: "2026-11-27T09:00:00Z",
            onlyTo: "Noor Abernathy-Voss",
            twins: [{ conflictId: "k", leadId: "b", name: "Hal", words: "a is Ines, b is Hal" }],
            regroups: [{ id: "r", kind: "merge", other: "Bram", at: "2026-11-25T09:00:00Z", by: "Imke" }],
          },
          { test: true },
        )}
      />,
      { answers: { "POST /api/leads/merge": { id: "x", leadId: "l1" }, "POST /api/regroups/r/undo": { id: "r", leadId: "l1" } } },
    );
    for (const said of ["do not contact", "waits for them", "test", "may be two"]) expect(screen.getByText(said)).toBeInTheDocument();
    expect(screen.getByText(/Noor Abernathy-Voss's own addresses/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Yes, make them one" }));
    expect(asked.at(-1)?.body).toEqual({ keep: "l1", gone: "b" });
    await userEvent.click(screen.getByRole("button", { name: "Take it back" }));
    expect(asked.at(-1)?.path).toBe("/api/regroups/r/undo");
  });
  test("tells each consent with its words and version, and puts them on the list only when sure", async () => {
    const consent = {
      how: "shown" as const,
      words: "We use your answers for this.",
      version: 2,
      privacyUrl: "https://rides.example.com/privacy",
      at: "2026-11-25T09:31:07Z",
      fromAddress: "203.0.113.9",
      source: "Book a test ride",
    };
    const asked = show(
      <Consents
        {...part}
        whole={whole({ consents: [consent], addresses: [{ kind: "email", value: "ines@example.com", unwanted: false }] })}
      />,
      { answers: { "POST /api/do-not-contact": { added: 1, there: 0, leads: 1, unreadable: [] } } },
    );
    expect(screen.getByText("version 2")).toBeInTheDocument();
    expect(screen.getByText(/from 203.0.113.9/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Do not contact them at all" }));
    expect(asked).toHaveLength(0);
    await userEvent.click(screen.getByRole("button", { name: "Yes" }));
    expect(asked[0]?.body).toMatchObject({ client: "brackenwheel", addresses: "ines@example.com" });
  });
  test("shows how they came, and gives another person's part away", async () => {
    const sub = (id: string): Schemas["LeadSubmission"] => ({
      id,
      formId: "f",
      form: "Test ride",
      askedAt: "2026-11-25T09:31:07Z",
      receivedAt: "2026-11-25T09:31:07Z",
      test: false,
      junk: 70,
      via: "door",
      page: null,
      answers: [{ question: "Fleet", answer: "25+" }],
      tracking: [{ question: "campaign", answer: "Depots, spring" }],
    });
    const asked = show(<Submissions {...part} whole={whole({}, {}, [sub("s1"), sub("s2")])} />, {
      answers: { "POST /api/leads/l1/split": { id: "r", leadId: "new" } },
    });
    expect(screen.getAllByText("Depots, spring")).toHaveLength(2);
    await userEvent.click(screen.getByRole("button", { name: "Some of it is another person's" }));
    await userEvent.click(screen.getAllByRole("checkbox")[0] as HTMLElement);
    await userEvent.click(screen.getByRole("button", { name: "Give it to a lead of their own" }));
    expect(asked.at(-1)?.body).toEqual({ submissions: ["s2"] });
  });
});

describe("what Setup keeps", () => {
  test("what later answers do to a field", async () => {
    const asked = show(<LeadFields client="brackenwheel" />, {
      answers: {
        "GET /api/lead-fields": {
          fields: [{ key: "company", label: "Company", type: "text", choices: [], rule: "newest-wins", own: false }],
        },
        "PUT /api/lead-fields/company": null,
      },
    });
    await userEvent.selectOptions(await screen.findByLabelText("When Company is answered again"), "keep");
    expect(asked.find((a) => a.method === "PUT")?.body).toMatchObject({ client: "brackenwheel", rule: "keep" });
  });
  test("who is not to be contacted, from a file too", async () => {
    const asked = show(<DoNotContact client="brackenwheel" zone="Europe/London" />, {
      answers: {
        "GET /api/do-not-contact": {
          rows: [{ kind: "email", value: "no@example.com", reason: "asked for it", at: "2026-11-25T09:00:00Z", by: null }],
          total: 1,
        },
        "POST /api/do-not-contact": { added: 2, there: 1, leads: 1, unreadable: ["nobody"] },
      },
    });
    expect(await screen.findByText("no@example.com")).toBeInTheDocument();
    await userEvent.upload(
      screen.getByLabelText("take a file"),
      new File(["a@example.com\nb@example.com"], "list.csv", { type: "text/csv" }),
    );
    expect(await screen.findByText(/2 added, 1 there already; 1 lead is left/)).toBeInTheDocument();
    expect(screen.getByText("Neither an email nor a number: nobody")).toBeInTheDocument();
    expect(asked.find((a) => a.method === "POST")?.body).toMatchObject({ addresses: "a@example.com\nb@example.com", reason: null });
  });
  test("a mail server that would not take us is not kept", async () => {
    show(<MailServer client="brackenwheel" />, {
      answers: {
        "POST /api/connections/mail": {
          status: 502,
          body: {
            code: "not-connected",
            title: "The network did not give what was asked.",
            detail: "The mail server does not take the user and password.",
          },
        },
      },
    });
    await userEvent.click(screen.getByRole("button", { name: "Add a mail server" }));
    await userEvent.type(screen.getByLabelText("Server"), "mail.example.com");
    await userEvent.type(screen.getByLabelText("Letters come from"), "hello@example.com");
    await userEvent.click(screen.getByRole("button", { name: "Try it and keep it" }));
    expect(await screen.findByText(/does not take the user and password/)).toBeInTheDocument();
  });
  test("one's own test addresses, and all tests swept with a press", async () => {
    const asked = show(<Tests />, {
      answers: {
        "GET /api/tests/addresses": { phone: null, email: null, person: null },
        "PUT /api/tests/addresses": { phone: "+447700900123", email: null, person: null },
        "GET /api/tests": { leads: 3 },
        "POST /api/tests/sweep": { leads: 3, takenBack: 4, stays: 1, failed: [] },
      },
    });
    await userEvent.type(await screen.findByLabelText("Texts to"), "07700 900123");
    await userEvent.click(screen.getByRole("button", { name: "Keep my addresses" }));
    expect(asked.find((a) => a.method === "PUT")?.body).toEqual({ phone: "07700 900123", email: null, person: null });
    await userEvent.click(screen.getByRole("button", { name: "Sweep them away" }));
    expect(await screen.findByText(/3 swept; 4 posts taken back out there, 1 texts and letters stay/)).toBeInTheDocument();
  });
});

test("the Watch says which lines are down, since when, and where to mend it", () => {
  const watch = {
    inTheAir: [],
    total: 0,
    held: 2,
    conflicts: 1,
    stuck: 0,
    tray: 2,
    setAside: [],
    now: "2026-11-25T09:41:07Z",
    accesses: [],
    linesMended: [],
    linesDown: [
      aLine({
        formId: "f",
        form: "School fairs",
        waiting: 4,
        waitingSince: "2026-11-25T08:52:00Z",
        cuts: [
          {
            joint: "map",
            cause: "Nobody has confirmed the map, and 4 submissions wait.",
            mend: { words: "Look at the map and confirm", place: "map", id: "f", step: null, part: null },
            since: "2026-11-25T08:52:00Z",
          },
        ],
      }),
    ],
  } as Schemas["WatchPage"];
  const soon = { connectionId: "k", name: "Ledgerhouse", clientId: "c1", client: "Tarn Valley", state: "whole", fault: null };
  const accesses = [
    { ...soon, expiresAt: new Date(serverNow() + 3 * 86_400_000 + 60_000).toISOString() },
    { ...soon, connectionId: "p", name: "Pillarpost", state: "withdrawn", fault: "Pillarpost answered 401.", expiresAt: null },
  ];
  show(<LinesDown watch={{ ...watch, accesses } as Schemas["WatchPage"]} clientKey={undefined} showClient />);
  expect(screen.getByText("3 days")).toBeInTheDocument();
  expect(screen.getByText("Pillarpost answered 401.")).toBeInTheDocument();
  expect(screen.getByText("access taken back")).toBeInTheDocument();
  expect(screen.getByText(/and 4 submissions wait/, { selector: "div" })).toBeInTheDocument();
  expect(screen.getByText(/The first has waited for/)).toBeInTheDocument();
  expect(screen.getByRole("img", { name: /The line is cut: Nobody has confirmed the map/ })).toBeInTheDocument();
  expect(screen.getByRole("link", { name: "Look at the map and confirm" })).toHaveAttribute("href", "/sources/f/map");
  expect(screen.getByRole("link", { name: "2 in the holding pen" })).toHaveAttribute("href", "/leads/pen");
});
