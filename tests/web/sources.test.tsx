import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { FormBuilderPage } from "@/features/builder/FormBuilderPage";
import { AddLeadPage } from "@/features/leads/AddLeadPage";
import { SetupPage } from "@/features/setup/SetupPage";
import { FormPage } from "@/features/sources/FormPage";
import { SourcePage } from "@/features/sources/SourcePage";
import { SourcesPage } from "@/features/sources/SourcesPage";
import { aLine } from "./lines";
import { show } from "./show";

afterEach(() => vi.unstubAllGlobals());

const row = (over: Partial<Schemas["FormRow"]> = {}): Schemas["FormRow"] => ({
  id: "f1",
  clientId: "c1",
  client: "Brackenwheel",
  sourceId: "s1",
  source: "Pagewright",
  sourceKind: "website",
  key: "own",
  name: "Visit us",
  state: "receiving",
  place: null,
  adState: null,
  archivedAt: null,
  built: false,
  published: false,
  map: null,
  submissions: 2,
  waiting: 2,
  unreadable: 0,
  lastAt: "2026-11-25T09:41:07Z",
  days: [1, 2],
  lateSeconds: null,
  emptyVisits: 0,
  ...over,
});

const noLine = { line: null, habit: null, drift: [], past: [] };

const sample = (over: Partial<Schemas["FormSample"]> = {}): Schemas["FormSample"] => ({
  id: "x1",
  receivedAt: "2026-11-25T09:41:07Z",
  sentAt: "2026-11-25T09:38:07Z",
  lateSeconds: 180,
  toldSeconds: null,
  status: "waiting",
  reason: "the form's field map is not confirmed",
  leadId: null,
  test: false,
  contentType: "application/json",
  raw: '{"who":"Ines","post":"i@example.com"}',
  via: "door",
  from: "203.0.113.9",
  agent: "A browser",
  page: "https://rides.example.com/visit",
  person: null,
  junk: 70,
  junkBecause: ["a field that people do not see was filled in"],
  answers: [
    { question: "who", answer: "Ines" },
    { question: "post", answer: "i@example.com" },
  ],
  paths: [],
  ...over,
});

const whole = (form: Partial<Schemas["FormRow"]> = {}, over: Partial<Schemas["FormDetail"]> = {}): Schemas["FormDetail"] => ({
  form: row(form),
  fields: ["who", "post"].map((name) => ({ name, label: name, type: "text", required: false, choices: [], leadField: null, seen: true })),
  mapVersion: null,
  confirmedBy: null,
  confirmedAt: null,
  mapByItsMaker: false,
  postTo: "http://x/in/own",
  pieces: { script: null, html: null, hosted: null, capture: "<script data-key=own></script>", passThrough: "http://x/through/own" },
  thankYouUrl: null,
  pageUrl: null,
  proofKind: null,
  proofUser: null,
  picks: [],
  figures: { fields: 2, views: 0, starts: 0, sends: 0, emptyVisits: 0, passedThrough: 0 },
  news: [],
  takesPosts: true,
  samples: [sample()],
  hold: { kind: "junk", junkFrom: 60, when: null },
  optIn: null,
  means: {},
  ...over,
});

const formAt = { path: "/sources/:formId", at: "/sources/f1" };

describe("a form's page", () => {
  test("says that nothing flows, and leads to the map", async () => {
    show(<FormPage />, { ...formAt, answers: { "GET /api/forms/f1": whole() } });
    expect(await screen.findByText("Nothing of this form flows yet.")).toBeInTheDocument();
    expect(screen.getByRole("link", { name: "Look at the map and confirm" })).toHaveAttribute("href", "/sources/f1/map");
  });

  test("says as sentences what waits for approval, and keeps a changed one", async () => {
    const asked = show(<FormPage />, { ...formAt, answers: { "GET /api/forms/f1": whole(), "PUT /api/forms/f1/hold": null } });
    await userEvent.selectOptions(await screen.findByLabelText("What waits for approval"), "rules");
    await userEvent.selectOptions(screen.getByLabelText("The field"), "who");
    await userEvent.type(screen.getByLabelText("With what, parted by commas"), "Ines, Bram");
    await userEvent.click(screen.getByRole("button", { name: "Keep this" }));
    expect(asked.find((a) => a.method === "PUT")?.body).toEqual({
      hold: { kind: "rules", junkFrom: 60, when: { match: "all", rules: [{ field: "who", op: "one-of", values: ["Ines", "Bram"] }] } },
    });
  });

  test("asks for a confirming letter, and says what is wrong with it where it stands", async () => {
    const refused = { status: 400, body: { code: "bad-input", detail: "Put {link} in.", errors: { "letter.words": ["Put {link} in."] } } };
    show(<FormPage />, {
      ...formAt,
      answers: { "GET /api/forms/f1": whole(), "GET /api/forms/f1/line": noLine, "PUT /api/forms/f1/opt-in": refused },
    });
    await userEvent.selectOptions(await screen.findByLabelText("Double opt-in"), "yes");
    expect((screen.getByLabelText("The letter") as HTMLTextAreaElement).value).toContain("{link}");
    await userEvent.click(screen.getByRole("button", { name: "Ask them to confirm" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("Put {link} in.");
  });

  test("shows a submission as it came: how, from where, how late, how much like junk", async () => {
    show(<FormPage />, { ...formAt, answers: { "GET /api/forms/f1": whole() } });
    expect(await screen.findByText("junk 70")).toBeInTheDocument();
    for (const said of [
      "sent to us",
      "203.0.113.9",
      "3 m 00",
      "https://rides.example.com/visit",
      "a field that people do not see was filled in",
    ])
      expect(screen.getByText(said)).toBeInTheDocument();
    expect(screen.getByText(/"who": "Ines"/)).toBeInTheDocument();
  });

  test("pauses, and sends a test lead", async () => {
    const asked = show(<FormPage />, {
      ...formAt,
      answers: {
        "GET /api/forms/f1": whole(),
        "POST /api/forms/f1/pause": null,
        "POST /api/forms/f1/test-lead": { receipt: "r", answers: [{ question: "Name", answer: "Osric Quarrie" }] },
      },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Pause" }));
    await userEvent.click(screen.getByRole("button", { name: "Send a test lead" }));
    expect(await screen.findByText(/Osric Quarrie/)).toBeInTheDocument();
    expect(asked.filter((a) => a.method === "POST").map((a) => a.path)).toEqual(["/api/forms/f1/pause", "/api/forms/f1/test-lead"]);
  });

  test("says that visits came without answers, and how to mend it", async () => {
    show(<FormPage />, {
      ...formAt,
      answers: {
        "GET /api/forms/f1": whole({}, { figures: { fields: 2, views: 60, starts: 20, sends: 10, emptyVisits: 3, passedThrough: 1 } }),
      },
    });
    expect(await screen.findByText("3 of 4 visits came without answers.")).toBeInTheDocument();
    expect(screen.getByRole("img", { name: "60 saw it, 20 began, 10 sent it" })).toBeInTheDocument();
    expect(screen.getByText("17 %")).toBeInTheDocument();
  });

  test("picks fields from a hook's sample by pressing on values", async () => {
    const hook = whole(
      { sourceKind: "hook" },
      {
        samples: [
          sample({
            paths: [
              { question: "$.guest.mail", answer: "i@example.com" },
              { question: "$.rows[*].sku", answer: "A, B" },
            ],
          }),
        ],
      },
    );
    const asked = show(<FormPage />, {
      ...formAt,
      answers: { "GET /api/forms/f1": hook, "PUT /api/forms/f1/picks": null, "PUT /api/forms/f1/proof": { secret: "told-once" } },
    });
    await userEvent.click(await screen.findByRole("button", { name: /guest\.mail/ }));
    await userEvent.clear(screen.getByLabelText("$.guest.mail is"));
    await userEvent.type(screen.getByLabelText("$.guest.mail is"), "email");
    await userEvent.click(screen.getByRole("button", { name: /sku/ }));
    await userEvent.click(screen.getByRole("button", { name: "Use these 2 fields" }));
    expect(asked.find((a) => a.path.endsWith("/picks"))?.body).toEqual({
      picks: [
        { path: "$.guest.mail", field: "email" },
        { path: "$.rows[*].sku", field: "sku" },
      ],
    });
    await userEvent.selectOptions(screen.getByLabelText("It shows"), "basic");
    await userEvent.type(screen.getByLabelText("User"), "calendar");
    await userEvent.click(screen.getByRole("button", { name: /make the secret/ }));
    expect(await screen.findByText("told-once")).toBeInTheDocument();
    expect(asked.find((a) => a.path.endsWith("/proof"))?.body).toEqual({ kind: "basic", user: "calendar" });
  });
});

const sourceRow = (over: Partial<Schemas["SourceRow"]> = {}): Schemas["SourceRow"] => ({
  id: "s1",
  clientId: "c1",
  client: "Brackenwheel",
  kind: "plaza",
  name: "Plaza",
  fault: null,
  access: "whole",
  expiresAt: null,
  lookedAt: "2026-11-25T09:41:07Z",
  refusals: 0,
  offered: 1,
  forms: [row({ map: "confirmed", waiting: 0 })],
  ...over,
});

const card: Schemas["SourceKindCard"] = {
  kind: "plaza",
  name: "Plaza",
  what: "Lead ads",
  arrives: "It tells us.",
  access: "consent",
  placeWord: "page",
  permissions: [{ key: "answers.read", name: "read the answers", without: "no lead arrives" }],
  guide: ["Press Connect."],
  makesForms: false,
};

const source = (over: Partial<Schemas["SourceDetail"]> = {}): Schemas["SourceDetail"] => ({
  source: sourceRow({ access: "partial", fault: "“read the answers” was not given" }),
  card,
  connectionId: "k1",
  account: "Noor, Quillon Street Media",
  accessFault: null,
  permissions: [{ ...(card.permissions[0] as Schemas["PermissionNeed"]), given: false }],
  places: [],
  sendTo: null,
  hasKey: false,
  all: [row({ map: "confirmed", waiting: 0 }), row({ id: "f2", name: "Winter ride", state: "offered", adState: "waiting" })],
  found: [{ formId: "f2", form: "Winter ride", at: "2026-11-25T09:41:07Z", words: "found at Plaza" }],
  refused: [
    {
      code: "not-proven",
      detail: "The key is wrong.",
      mend: "Copy it again.",
      fromAddress: "203.0.113.9",
      form: null,
      firstAt: "2026-11-25T09:41:07Z",
      lastAt: "2026-11-25T09:41:07Z",
      times: 3,
    },
  ],
  notices: [{ status: "not-chosen", count: 4, reason: null, lastAt: "2026-11-25T09:41:07Z" }],
  ...over,
});

const sourceAt = { path: "/sources/from/:sourceId", at: "/sources/from/s1" };

describe("sources", () => {
  test("each is a line with its forms, what is wrong said where people look", async () => {
    show(<SourcesPage />, {
      answers: {
        "GET /api/sources": { sources: [sourceRow({ access: "expired", fault: "The access to Plaza ran out.", refusals: 2 })] },
        "GET /api/lines": { lines: [aLine({ formId: row({}).id })], now: "2026-11-25T09:41:07Z" },
      },
    });
    expect(await screen.findByText("The access to Plaza ran out.")).toBeInTheDocument();
    for (const said of ["access ran out", "2 refused today", "1 more form to choose from"])
      expect(screen.getByText(said)).toBeInTheDocument();
    expect(await screen.findByText("whole")).toBeInTheDocument();
    expect(screen.getByRole("img", { name: /^The line is whole: Plaza, permissions/ })).toBeInTheDocument();
  });

  test("names what a missing permission costs, what was refused, and what waits to be chosen", async () => {
    show(<SourcePage />, {
      ...sourceAt,
      answers: {
        "GET /api/sources/s1": source(),
        "GET /api/sources/s1/places": {
          places: [
            { id: "p1", name: "Brackenwheel" },
            { id: "p2", name: "Tarn" },
          ],
        },
      },
    });
    expect(await screen.findByText(/read the answers: not given, so no lead arrives/)).toBeInTheDocument();
    expect(screen.getByText(/The key is wrong\./)).toBeInTheDocument();
    expect(screen.getByText(/3 times, last/)).toBeInTheDocument();
    expect(screen.getByText(/choose the form and they are fetched/)).toBeInTheDocument();
    expect(screen.getByText(/ad awaits approval/)).toBeInTheDocument();
  });

  test("chooses pages, and a form, which leads to its map", async () => {
    const asked = show(<SourcePage />, {
      ...sourceAt,
      answers: {
        "GET /api/sources/s1": source(),
        "GET /api/sources/s1/places": {
          places: [
            { id: "p1", name: "Brackenwheel" },
            { id: "p2", name: "Tarn" },
          ],
        },
        "PUT /api/sources/s1/places": null,
        "POST /api/forms/f2/choose": null,
      },
    });
    await userEvent.click(await screen.findByLabelText("Tarn"));
    await userEvent.click(screen.getByRole("button", { name: "Take 1 of 2" }));
    expect(asked.find((a) => a.method === "PUT")?.body).toEqual({ ids: ["p1"] });
    await userEvent.click(screen.getByRole("button", { name: "Choose Winter ride" }));
    expect(await screen.findByText("elsewhere")).toBeInTheDocument();
  });

  test("a key is shown when it is asked for", async () => {
    const keyed = source({
      source: sourceRow({ kind: "lanternfind", name: "Lanternfind", access: null }),
      card: { ...card, kind: "lanternfind", access: "key-of-ours", placeWord: "", permissions: [] },
      sendTo: "http://x/in/lantern",
      hasKey: true,
    });
    show(<SourcePage />, {
      ...sourceAt,
      answers: {
        "GET /api/sources/s1": keyed,
        "GET /api/sources/s1/key": { key: "secret-key" },
        "GET /api/sources/s1/daily-file": { url: "https://x/{date}.csv", dueAt: null },
      },
    });
    expect(await screen.findByText("http://x/in/lantern")).toBeInTheDocument();
    expect(screen.queryByText("secret-key")).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "Show the key" }));
    expect(await screen.findByText("secret-key")).toBeInTheDocument();
    expect(await screen.findByDisplayValue("https://x/{date}.csv")).toBeInTheDocument();
  });
});

describe("building a form", () => {
  const draft: Schemas["FormDesign"] = {
    opening: null,
    fields: [{ name: "email", label: "Email", type: "email", required: true, choices: [], means: "email", hidden: null }],
    consent: { words: "We ring back.", privacyUrl: "", mustAgree: false },
    lookOver: false,
    ending: { kind: "message", words: "Thank you.", url: null, phone: null },
    endingIfKnown: null,
    amendLink: false,
    hosts: [],
    sendWords: "Send",
  };
  const design = (over: Partial<Schemas["DesignDetail"]> = {}): Schemas["DesignDetail"] => ({
    formId: "f1",
    name: "Spring tour",
    draft,
    publishedAt: null,
    changed: true,
    faults: [{ place: "consent.privacyUrl", what: "The link to the privacy notice is missing.", mend: "Give its address." }],
    tracked: ["utm_source"],
    standard: ["email"],
    preview: "<form></form>",
    ...over,
  });
  const builderAt = { path: "/sources/:formId/build", at: "/sources/f1/build" };

  test("what is missing stands there with its place, and keeps it from being published", async () => {
    show(<FormBuilderPage />, { ...builderAt, answers: { "GET /api/forms/f1/design": design() } });
    expect(await screen.findByRole("button", { name: "1 missing" })).toBeDisabled();
    expect(screen.getByRole("link", { name: "The link to the privacy notice is missing." })).toHaveAttribute("href", "#consent-privacyUrl");
  });

  test("saves as one types, then publishes", async () => {
    const asked = show(<FormBuilderPage />, {
      ...builderAt,
      answers: {
        "GET /api/forms/f1/design": design({ faults: [] }),
        "PUT /api/forms/f1/design": design({ faults: [] }),
        "POST /api/forms/f1/publish": design({ faults: [], changed: false, publishedAt: "2026-11-25T09:41:07Z" }),
      },
    });
    await userEvent.selectOptions(await screen.findByLabelText("Add a field"), "Something hidden");
    await userEvent.click(screen.getByLabelText("Show the answers once more before they are sent"));
    await userEvent.selectOptions(screen.getByLabelText("They"), "go on to an address");
    await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true), { timeout: 3000 });
    expect(asked.filter((a) => a.method === "PUT").at(-1)?.body).toMatchObject({
      draft: {
        lookOver: true,
        ending: { kind: "go-to" },
        fields: [{ name: "email" }, { type: "hidden", hidden: { tracked: "utm_source" } }],
      },
    });
    await userEvent.click(screen.getByRole("button", { name: "Publish" }));
    expect(await screen.findByText(/Take the piece to paste/)).toBeInTheDocument();
  });
});

describe("by hand and by key", () => {
  test("a lead without an address is refused where it was typed, and what was typed stays", async () => {
    const refused = {
      status: 400,
      body: {
        title: "Something in the request is not right.",
        detail: "x",
        errors: { "fields.email": ["Give an email address or a telephone number."] },
      },
    };
    show(<AddLeadPage />, { answers: { "POST /api/leads": refused } });
    await userEvent.type(screen.getByLabelText("Name"), "Ines");
    await userEvent.click(screen.getByRole("button", { name: "Add the lead" }));
    expect(await screen.findByText("Give an email address or a telephone number.")).toBeInTheDocument();
    expect(screen.getByLabelText("Name")).toHaveValue("Ines");
  });

  test("a key is told once, connections are verified, and nothing is taken out unasked", async () => {
    const connection = {
      id: "k1",
      client: "Brackenwheel",
      kind: "plaza",
      name: "Plaza",
      account: "Noor",
      state: "whole",
      fault: null,
      granted: ["answers.read"],
      expiresAt: null,
      verifiedAt: null,
      goodAt: null,
      madeAt: null,
      madeBy: null,
      usedBy: ["Plaza"],
      byConsent: true,
      service: "Plaza",
      canVerify: true,
      asks: [],
      health: null,
    };
    vi.stubGlobal("confirm", () => false);
    const asked = show(<SetupPage />, {
      answers: {
        "GET /api/connections": { connections: [connection] },
        "POST /api/connections/k1/verify": connection,
        "GET /api/keys": { keys: [] },
        "POST /api/keys": { id: "a1", key: "lf_key_told_once" },
      },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Verify Plaza of Brackenwheel" }));
    expect(await screen.findByText("Asked just now: it may answers.read.")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Take out Plaza of Brackenwheel" }));
    await userEvent.type(screen.getByLabelText("For which program"), "The till");
    await userEvent.click(screen.getByRole("button", { name: "Make a key" }));
    expect(await screen.findByText("lf_key_told_once")).toBeInTheDocument();
    expect(asked.some((a) => a.method === "DELETE")).toBe(false);
    expect(asked.find((a) => a.path === "/api/keys" && a.method === "POST")?.body).toEqual({ client: "brackenwheel", name: "The till" });
  });
});
