import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { KeysOfPage } from "@/features/frame/KeysOfPage";
import { BulkBar } from "@/features/leads/BulkBar";
import { MapPage } from "@/features/mapping/MapPage";
import { ReprocessPanel } from "@/features/mapping/ReprocessPanel";
import { PenPage } from "@/features/pen/PenPage";
import { SetupPage } from "@/features/setup/SetupPage";
import { SentencePick } from "@/features/sources/SentencePick";
import { person, show } from "./show";

afterEach(() => {
  vi.unstubAllGlobals();
  sessionStorage.clear();
});

const field = (name: string, label = name): Schemas["MapField"] => ({
  name,
  label,
  type: "text",
  required: false,
  choices: [],
  seen: true,
  fresh: false,
  suggested: { formField: name, leadField: null, confidence: 0, because: "a question of its own" },
});
const fields: Schemas["LeadFieldRow"][] = [
  { key: "email", label: "Email", type: "email", choices: [], rule: "newest-wins", own: false },
  { key: "phone", label: "Phone", type: "phone", choices: [], rule: "newest-wins", own: false },
  { key: "company", label: "Company", type: "text", choices: [], rule: "newest-wins", own: false },
];
const map: Schemas["FieldMap"] = { locale: null, rows: [{ formField: "mail", leadField: "email" }] };
const older: Schemas["FieldMap"] = { locale: "de-DE", rows: [{ formField: "mail", leadField: null }] };
const whole = (over: Partial<Schemas["MapDetail"]> = {}): Schemas["MapDetail"] => ({
  formId: "f1",
  form: "School fairs",
  client: "brackenwheel",
  version: 2,
  confirmed: true,
  map,
  country: "GB",
  fields: [field("mail", "Your email"), field("cc", "Country code"), field("no", "Number")],
  leadFields: fields,
  samples: [
    {
      id: "s1",
      receivedAt: "2026-11-25T09:31:07Z",
      test: true,
      status: "processed",
      answers: [{ field: "mail", value: "ines@example.com" }],
    },
  ],
  similar: [{ id: "f2", name: "Spring fairs", source: "Pagewright", shared: 2 }],
  versions: [
    { version: 2, confirmedBy: "Noor Abernathy-Voss", confirmedAt: "2026-11-25T09:00:00Z", map },
    { version: 1, confirmedBy: null, confirmedAt: "2026-11-20T09:00:00Z", map: older },
  ],
  waiting: 0,
  processed: 0,
  reprocessing: null,
  ...over,
});
const at = { path: "/sources/:formId/map", at: "/sources/f1/map" };
const answers = (more: Record<string, unknown> = {}, over: Partial<Schemas["MapDetail"]> = {}) => ({
  "GET /api/forms/f1/map": whole(over),
  "POST /api/forms/f1/map/try": { samples: [] },
  "PUT /api/forms/f1/map": { version: 3, released: 0 },
  ...more,
});

describe("making a map", () => {
  test("joins a field to another with what stands between, and parts it again", async () => {
    const asked = show(<MapPage />, { ...at, answers: answers() });
    await userEvent.selectOptions(await screen.findByLabelText("Country code goes to"), "Phone");
    await userEvent.selectOptions(screen.getByLabelText("Join another field to Country code"), "Number");
    expect(screen.queryByLabelText("Number goes to")).not.toBeInTheDocument();
    const between = screen.getByLabelText("What stands between Country code and no");
    await userEvent.clear(between);
    await userEvent.type(between, "-");
    await userEvent.click(screen.getByRole("button", { name: "Confirm the map" }));
    await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
    const sent = asked.find((a) => a.method === "PUT")?.body as { version: number; rows: unknown[] };
    expect(sent.version).toBe(2);
    expect(sent.rows).toContainEqual({ formField: "cc", leadField: "phone", with: ["no"], joiner: "-", constant: null, choices: null });
    await userEvent.click(screen.getByRole("button", { name: "part again" }));
    expect(screen.getByLabelText("Number goes to")).toBeInTheDocument();
  });

  test("fixes a value, and takes it out again", async () => {
    show(<MapPage />, { ...at, answers: answers() });
    await userEvent.selectOptions(await screen.findByLabelText("Add a fixed value"), "Company");
    const value = screen.getByLabelText("The fixed value of Company");
    await userEvent.clear(value);
    await userEvent.type(value, "Quillon Fairs");
    expect(value).toHaveValue("Quillon Fairs");
    await userEvent.click(screen.getByRole("button", { name: "Take out" }));
    expect(screen.queryByLabelText("The fixed value of Company")).not.toBeInTheDocument();
    expect(screen.getByText("confirmed")).toBeInTheDocument();
  });

  test("says how dates and numbers are written in this form", async () => {
    const asked = show(<MapPage />, { ...at, answers: answers() });
    await userEvent.selectOptions(await screen.findByLabelText("How dates and numbers are written in this form"), "de-DE");
    expect(screen.getByText("changed, not confirmed")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Confirm the map" }));
    await waitFor(() => expect(asked.find((a) => a.method === "PUT")?.body).toMatchObject({ locale: "de-DE" }));
  });

  test("takes over the map of a similar form", async () => {
    const copied = { locale: null, rows: [{ formField: "no", leadField: "phone" }] };
    show(<MapPage />, { ...at, answers: answers({ "GET /api/forms/f1/map/from/f2": copied }) });
    await userEvent.selectOptions(await screen.findByLabelText("Copy the map of a similar form"), "f2");
    await waitFor(() => expect(screen.getByLabelText("Number goes to")).toHaveValue("phone"));
    expect(screen.getByText("changed, not confirmed")).toBeInTheDocument();
  });

  test("takes an earlier version up again, as a change to be confirmed", async () => {
    show(<MapPage />, { ...at, answers: answers() });
    expect(await screen.findByText(/made with the form/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Take it up again" }));
    expect(screen.getByLabelText("How dates and numbers are written in this form")).toHaveValue("de-DE");
    expect(screen.getByText("changed, not confirmed")).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Confirm the map" })).toBeDisabled();
  });

  test("says that somebody else was quicker, and keeps what was chosen", async () => {
    const moved = {
      status: 409,
      body: { code: "not-now", title: "That cannot be done.", detail: "Somebody else confirmed this map after you opened it." },
    };
    show(<MapPage />, { ...at, answers: answers({ "PUT /api/forms/f1/map": moved }) });
    await userEvent.selectOptions(await screen.findByLabelText("Number goes to"), "Phone");
    await userEvent.click(screen.getByRole("button", { name: "Confirm the map" }));
    expect(await screen.findByText(/Somebody else confirmed this map/)).toBeInTheDocument();
    expect(screen.getByLabelText("Number goes to")).toHaveValue("phone");
  });

  test("is only looked at by who may not change it", async () => {
    const reader = { ...person, clients: person.clients.map((c) => ({ ...c, may: ["see-sources"] })) };
    const [first] = person.clients;
    (first as { may: string[] }).may = ["see-sources"];
    try {
      show(<MapPage />, { ...at, answers: answers() });
      expect(await screen.findByText("Your email")).toBeInTheDocument();
      expect(screen.queryByRole("button", { name: "Confirm the map" })).not.toBeInTheDocument();
      expect(screen.queryByLabelText("Your email goes to")).not.toBeInTheDocument();
      expect(reader.clients[0]?.may).toEqual(["see-sources"]);
    } finally {
      (first as { may: string[] }).may = [
        "see-watch",
        "see-leads",
        "touch-leads",
        "see-sources",
        "edit-sources",
        "see-fuses",
        "edit-fuses",
      ];
    }
  });

  test("says what will be here while nobody knows what the form asks", async () => {
    show(<MapPage />, {
      ...at,
      answers: answers({}, { fields: [], samples: [], map: null, confirmed: false, version: 0, versions: [], similar: [] }),
    });
    expect(await screen.findByText(/Nobody knows yet what this form asks/)).toBeInTheDocument();
    expect(screen.getByText("no sample yet: send it once, or a test lead")).toBeInTheDocument();
  });

  test("says why it cannot be shown", async () => {
    show(<MapPage />, {
      ...at,
      answers: {
        "GET /api/forms/f1/map": {
          status: 404,
          body: { code: "not-there", title: "There is nothing here.", detail: "There is no such form for you." },
        },
      },
    });
    expect(await screen.findByText(/There is no such form for you/)).toBeInTheDocument();
  });
});

test("what went through a map before is told in a line", async () => {
  show(<ReprocessPanel whole={whole({ processed: 5, reprocessing: { id: "r", total: 5, done: 5, changed: 3, status: "done" } })} />, {
    answers: { "POST /api/forms/f1/reprocess/preview": { read: 5, total: 5, leadsChanged: 0, fields: [], examples: [] } },
  });
  expect(await screen.findByText("Earlier submissions went through this map: 3 leads changed.")).toBeInTheDocument();
});

describe("with many leads", () => {
  const bar = (over: Partial<Parameters<typeof BulkBar>[0]> = {}, answer: unknown = { changed: 2 }) =>
    show(
      <BulkBar
        picked={["a", "b"]}
        all={false}
        total={2}
        shown={2}
        client="brackenwheel"
        filter={{}}
        choices={{
          owners: [{ id: "u", name: "Imke Sandoval" }],
          tags: ["spring"],
          forms: [],
          sources: [],
          views: [],
          stages: [],
          fuses: [],
        }}
        onAll={vi.fn()}
        onNone={vi.fn()}
        {...over}
      />,
      { answers: { "POST /api/leads/change": answer } },
    );
  test("a tag is taken off all of them", async () => {
    const asked = bar();
    await userEvent.type(screen.getByLabelText("Tag"), "spring");
    await userEvent.click(screen.getByRole("button", { name: "Untag" }));
    expect(asked.find((a) => a.method === "POST")?.body).toMatchObject({ ids: ["a", "b"], untag: "spring", tag: null });
    expect(await screen.findByText("2 changed.")).toBeInTheDocument();
  });
  test("what was refused is said, and the choice stays", async () => {
    bar(
      {},
      {
        status: 400,
        body: { code: "bad-input", title: "Something is not right.", detail: "That person does not work for all of these clients." },
      },
    );
    await userEvent.selectOptions(screen.getByLabelText("Give them to"), "Imke Sandoval");
    expect(await screen.findByText(/does not work for all of these clients/)).toBeInTheDocument();
    expect(screen.getByText("2 chosen")).toBeInTheDocument();
  });
  test("all that fit are offered where there are more than one page shows", async () => {
    const onAll = vi.fn();
    bar({ total: 500, onAll });
    await userEvent.click(screen.getByRole("button", { name: "Choose all 500 that fit" }));
    expect(onAll).toHaveBeenCalled();
  });
});

test("the refused in the pen can be approved after all, and not be refused again", async () => {
  const refused: Schemas["HeldRow"] = {
    id: "h1",
    clientId: "c1",
    client: "Brackenwheel",
    formId: "f",
    form: "Book a test ride",
    name: "Gareth Pell",
    email: "g@example.net",
    phone: null,
    answers: [],
    askedAt: "2026-11-25T09:31:07Z",
    heldAt: "2026-11-25T09:31:08Z",
    why: "sells shoes",
    junk: 0,
    junkBecause: [],
    test: true,
    refused: true,
    decidedBy: "Noor Abernathy-Voss",
    decidedAt: "2026-11-25T09:35:08Z",
    known: null,
  };
  show(<PenPage />, {
    at: "/leads/pen?refused=1",
    answers: {
      "GET /api/pen": { rows: [refused], held: 3, refused: 1 },
      "GET /api/frame": { clients: [], leads: 0, forms: 0, fuses: 0, held: 3, conflicts: 0, stuck: 0, now: "2026-11-25T09:41:07Z" },
    },
  });
  expect(await screen.findByText("Refused by Noor Abernathy-Voss: sells shoes")).toBeInTheDocument();
  expect(screen.getByRole("button", { name: "Approve Gareth Pell" })).toBeEnabled();
  expect(screen.queryByLabelText("Why refused")).not.toBeInTheDocument();
  expect(screen.getByRole("button", { name: "Back to the 3 that wait" })).toBeInTheDocument();
});

test("a part of a sentence is chosen otherwise", async () => {
  const onChange = vi.fn();
  show(
    <SentencePick
      label="When"
      value="a"
      of={[
        ["a", "at once"],
        ["b", "in the morning"],
      ]}
      onChange={onChange}
    />,
  );
  await userEvent.selectOptions(screen.getByLabelText("When"), "in the morning");
  expect(onChange).toHaveBeenCalledWith("b");
});

test("Setup has a client's fields, list and mail beside connections, tests and keys", async () => {
  show(<SetupPage />, {
    answers: {
      "GET /api/connections": { connections: [] },
      "GET /api/lead-fields": { fields },
      "GET /api/do-not-contact": { rows: [], total: 0 },
      "GET /api/tests/addresses": { phone: "+447700900123", email: null, person: null },
      "GET /api/tests": { leads: 0 },
      "GET /api/keys": { keys: [] },
    },
  });
  for (const heading of ["Connections", "Lead fields", "Tests", "API keys"])
    expect(screen.getByRole("heading", { name: heading })).toBeInTheDocument();
  expect(await screen.findByLabelText("When Company is answered again")).toHaveValue("newest-wins");
  expect(await screen.findByLabelText("Texts to")).toHaveValue("+447700900123");
  expect(await screen.findByRole("button", { name: "Sweep them away" })).toBeDisabled();
});

test.each([
  ["/sources/f1/map", "Confirm the map"],
  ["/leads/pen", "Approve what is chosen, or the one here"],
  ["/leads", "Choose it"],
])("the keys of %s are told", (path, told) => {
  show(<KeysOfPage path={path} onClose={vi.fn()} />);
  expect(within(screen.getByRole("dialog")).getByText(told)).toBeInTheDocument();
});
