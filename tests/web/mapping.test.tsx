import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import {
  copied,
  type Draft,
  firstDraft,
  joined,
  parted,
  same,
  sureness,
  toRows,
  withConstant,
  withoutRow,
  withRow,
  wrong,
} from "@/features/mapping/draft";
import { MapPage } from "@/features/mapping/MapPage";
import { show } from "./show";

const field = (name: string, over: Partial<Schemas["MapField"]> = {}, leadField: string | null = null): Schemas["MapField"] => ({
  name,
  label: name,
  type: "text",
  required: false,
  choices: [],
  seen: true,
  fresh: false,
  suggested: {
    formField: name,
    leadField,
    confidence: leadField ? 0.96 : 0,
    because: leadField ? "“mail” by its name" : "a question of its own",
  },
  ...over,
});
const leadField = (key: string, label: string, own = false, choices: string[] = []): Schemas["LeadFieldRow"] => ({
  key,
  label,
  type: choices.length > 0 ? "choice" : "text",
  choices,
  rule: "newest-wins",
  own,
});
const whole = (over: Partial<Schemas["MapDetail"]> = {}): Schemas["MapDetail"] => ({
  formId: "f1",
  form: "School fairs",
  client: "brackenwheel",
  version: 0,
  confirmed: false,
  map: null,
  country: "GB",
  fields: [field("who", {}, "full_name"), field("mail", {}, "email"), field("children"), field("size")],
  leadFields: [
    leadField("full_name", "Full name"),
    leadField("email", "Email"),
    leadField("phone", "Phone"),
    leadField("company", "Company"),
    leadField("fleet_size", "Fleet size", true, ["1–3", "25+"]),
  ],
  samples: [
    {
      id: "s1",
      receivedAt: "2026-11-25T09:31:07Z",
      test: false,
      status: "waiting",
      answers: [
        { field: "who", value: "Ines Calloway" },
        { field: "mail", value: "ines@example.com" },
        { field: "size", value: "a lot" },
      ],
    },
    { id: "s2", receivedAt: "2026-11-25T09:21:07Z", test: false, status: "waiting", answers: [{ field: "who", value: "Hal Wetherby" }] },
  ],
  similar: [],
  versions: [],
  waiting: 4,
  processed: 0,
  reprocessing: null,
  ...over,
});
const tried = (rows: (string | null)[]): Schemas["TriedMap"] => ({
  samples: [
    { id: "s1", name: "", email: null, phones: [], reachable: true, rows: rows.map((value) => ({ value, fault: null })) },
    { id: "s2", name: "", email: null, phones: [], reachable: false, rows: rows.map(() => ({ value: "two", fault: "not a thing" })) },
  ],
});
const at = { path: "/sources/:formId/map", at: "/sources/f1/map" };
const answers = (map: Schemas["MapDetail"], more: Record<string, unknown> = {}) => ({
  "GET /api/forms/f1/map": map,
  "POST /api/forms/f1/map/try": tried(["Ines · Calloway", "ines@example.com", null, "a lot"]),
  "PUT /api/forms/f1/map": { version: 1, released: 4 },
  ...more,
});

afterEach(() => {
  vi.unstubAllGlobals();
  sessionStorage.clear();
});

describe("a draft of a map", () => {
  const first = firstDraft(whole());
  it("begins with what is suggested, and keeps the rest under its own name", () => {
    expect(toRows(first).map((r) => `${r.formField} → ${r.leadField}`)).toEqual([
      "who → full_name",
      "mail → email",
      "children → children",
      "size → size",
    ]);
  });
  it("keeps a confirmed map, shows fields that came since, and lets unseen tracking values be", () => {
    const map = {
      locale: "de-DE",
      rows: [
        { formField: "mail", leadField: "email" },
        { formField: "utm_source", leadField: "utm_source" },
      ],
    } as Schemas["FieldMap"];
    const draft = firstDraft(
      whole({ map, confirmed: true, version: 2, fields: [field("mail", {}, "email"), field("neu", { fresh: true }, "phone")] }),
    );
    expect(draft.rows.map((r) => [r.field, r.to])).toEqual([
      ["mail", "email"],
      ["neu", "phone"],
      ["utm_source", "utm_source"],
    ]);
    expect(draft.locale).toBe("de-DE");
  });
  it("joins a field and parts it again, adds a fixed value and takes it out", () => {
    const both = joined(first, 0, "children");
    expect(both.rows.map((r) => r.field)).toEqual(["who", "mail", "size"]);
    expect(toRows(withRow(both, 0, { joiner: "-" }))[0]).toMatchObject({ formField: "who", with: ["children"], joiner: "-" });
    expect(parted(both, 0, "children").rows.map((r) => r.field)).toEqual(["who", "children", "mail", "size"]);
    const fixed = withConstant(first, "company", "Nook");
    expect(toRows(fixed).at(-1)).toMatchObject({ formField: "", leadField: "company", constant: "Nook" });
    expect(same(withoutRow(fixed, 4), first)).toBe(true);
    expect(joined(first, 99, "who")).toBe(first);
  });
  it("says what keeps it from being confirmed, and what is odd", () => {
    expect(wrong(first)).toEqual({ stops: null, odd: [] });
    const mail = first.rows.findIndex((r) => r.field === "mail");
    expect(wrong(withRow(first, mail, { to: null })).stops).toMatch(/nobody could be recognised/);
    const twice = withRow(withRow(first, 2, { to: "company" }), 3, { to: "company" });
    expect(wrong(twice).odd[0]).toBe("children and size both go to company: the first that was answered is taken.");
    expect(wrong(withRow(first, 2, { to: "first_name" })).odd[0]).toMatch(/A full name and its parts/);
  });
  it("takes over another form's map for the fields that both have", () => {
    const map = { locale: null, rows: [{ formField: "children", leadField: "company" }] } as Schemas["FieldMap"];
    expect(copied(first, map).rows.map((r) => [r.field, r.to])).toEqual([
      ["who", "full_name"],
      ["mail", "email"],
      ["children", "company"],
      ["size", "size"],
    ]);
  });
  test.each([
    [0.99, "sure"],
    [0.9, "likely"],
    [0.7, "a guess"],
  ])("calls %s %s", (confidence, word) => expect(sureness(confidence)).toBe(word));
});

describe("the map's page", () => {
  test("says unmistakably that nothing flows, shows each value now, and confirms", async () => {
    const asked = show(<MapPage />, { ...at, answers: answers(whole()) });
    expect(await screen.findByText("not confirmed")).toBeInTheDocument();
    expect(screen.getByRole("alert")).toHaveTextContent("Nothing of this form flows. 4 submissions wait.");
    expect(await screen.findByText("Ines · Calloway")).toBeInTheDocument();
    expect(screen.getByText("sure: “mail” by its name", { exact: false, selector: "[data-row=mail] *" })).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Confirm the map" }));
    await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
    expect(asked.find((a) => a.method === "PUT")?.body).toMatchObject({
      version: 0,
      locale: null,
      rows: [
        { formField: "who", leadField: "full_name" },
        { formField: "mail", leadField: "email" },
        { formField: "children", leadField: "children" },
        { formField: "size", leadField: "size" },
      ],
    });
  });

  test("steps through samples with buttons and keys, and says where one cannot be read", async () => {
    show(<MapPage />, { ...at, answers: answers(whole()) });
    expect(await screen.findByText(/sample 1 of 2/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "The next sample" }));
    expect(screen.getByText(/sample 2 of 2/)).toBeInTheDocument();
    expect(await screen.findByText("nobody could be recognised")).toBeInTheDocument();
    expect(screen.getAllByText("not a thing").length).toBeGreaterThan(0);
    await userEvent.keyboard("[[");
    expect(screen.getByText(/sample 1 of 2/)).toBeInTheDocument();
  });

  test("confirms with a key, but not what nobody could be recognised by", async () => {
    const asked = show(<MapPage />, { ...at, answers: answers(whole()) });
    await userEvent.selectOptions(await screen.findByLabelText("mail goes to"), "left out");
    expect(screen.getByRole("button", { name: "Confirm the map" })).toBeDisabled();
    await userEvent.keyboard("c");
    expect(asked.some((a) => a.method === "PUT")).toBe(false);
    await userEvent.selectOptions(screen.getByLabelText("mail goes to"), "Email");
    (document.activeElement as HTMLElement).blur();
    await userEvent.keyboard("c");
    await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
  });

  test("a changed map that was left is still there, and still not confirmed", async () => {
    const map = { locale: null, rows: [{ formField: "mail", leadField: "email" }] } as Schemas["FieldMap"];
    const confirmed = whole({
      map,
      confirmed: true,
      version: 3,
      versions: [{ version: 3, confirmedBy: "Noor", confirmedAt: "2026-11-20T09:00:00Z", map }],
      waiting: 0,
    });
    const kept: Draft = { ...firstDraft(confirmed), locale: "de-DE" };
    sessionStorage.setItem("map f1 3", JSON.stringify(kept));
    show(<MapPage />, { ...at, answers: answers(confirmed) });
    expect(await screen.findByText("changed, not confirmed")).toBeInTheDocument();
    expect(screen.getByRole("alert")).toHaveTextContent("Version 3 still rules until you confirm.");
    await userEvent.click(screen.getByRole("button", { name: "Put back" }));
    expect(await screen.findByText("confirmed")).toBeInTheDocument();
    expect(sessionStorage.getItem("map f1 3")).toBeNull();
  });

  test("makes a field where it is missed, and sends the answer there", async () => {
    const asked = show(<MapPage />, {
      ...at,
      answers: answers(whole(), { "POST /api/lead-fields": leadField("children", "children", true) }),
    });
    await screen.findByLabelText("children goes to");
    const row = document.querySelector("[data-row=children]") as HTMLElement;
    await userEvent.click(within(row).getByRole("button", { name: "Make a field of it" }));
    await userEvent.selectOptions(within(row).getByLabelText("What it holds"), "number");
    await userEvent.click(within(row).getByRole("button", { name: "Make the field" }));
    expect(asked.find((a) => a.path === "/api/lead-fields")?.body).toMatchObject({
      client: "brackenwheel",
      label: "children",
      type: "number",
      choices: null,
    });
  });

  test("asks what an answer means that is none of a field's choices", async () => {
    const asked = show(<MapPage />, { ...at, answers: answers(whole()) });
    await userEvent.selectOptions(await screen.findByLabelText("size goes to"), "Fleet size");
    expect(screen.getByText(/1 answer is none of the field's choices/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Say what they mean" }));
    await userEvent.selectOptions(screen.getByLabelText("a lot is the choice"), "25+");
    await userEvent.click(screen.getByRole("button", { name: "Confirm the map" }));
    await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
    const sent = asked.find((a) => a.method === "PUT")?.body as { rows: unknown[] } | undefined;
    expect(sent?.rows[3]).toMatchObject({
      leadField: "fleet_size",
      choices: { "a lot": "25+" },
    });
  });

  test("offers to process earlier submissions again, with what would change", async () => {
    const map = { locale: null, rows: [{ formField: "mail", leadField: "email" }] } as Schemas["FieldMap"];
    const asked = show(<MapPage />, {
      ...at,
      answers: answers(whole({ map, confirmed: true, version: 2, processed: 5, waiting: 0, fields: [field("mail", {}, "email")] }), {
        "POST /api/forms/f1/reprocess/preview": {
          read: 5,
          total: 5,
          leadsChanged: 3,
          fields: [{ field: "phone", label: "Phone", leads: 3 }],
          examples: [
            { leadId: "l", name: "Hal Wetherby", changes: [{ field: "phone", before: null, after: "+447700900803", taken: true }] },
          ],
        },
        "POST /api/forms/f1/reprocess": { id: "r", total: 5, done: 0, changed: 0, status: "running" },
      }),
    });
    expect(await screen.findByText("3 leads would change")).toBeInTheDocument();
    expect(screen.getByText(/phone: empty → \+447700900803/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Process them again" }));
    expect(asked.some((a) => a.method === "POST" && a.path === "/api/forms/f1/reprocess")).toBe(true);
  });

  test("shows how far reprocessing is, and stops it", async () => {
    const map = { locale: null, rows: [{ formField: "mail", leadField: "email" }] } as Schemas["FieldMap"];
    const running = { id: "r", total: 50, done: 20, changed: 7, status: "running" as const };
    const asked = show(<MapPage />, {
      ...at,
      answers: answers(whole({ map, confirmed: true, version: 2, processed: 50, reprocessing: running }), {
        "POST /api/forms/f1/reprocess/cancel": null,
      }),
    });
    expect(await screen.findByText(/20 of 50, 7 leads changed/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Stop it here" }));
    expect(asked.some((a) => a.path.endsWith("/cancel"))).toBe(true);
  });
});
