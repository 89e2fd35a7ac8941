import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { withNewStep, withSettings } from "@/features/fuses/model/editing";
import { columnsShown, emptied, fieldAlone, fits } from "@/features/fuses/model/serviceColumns";
import { entryOf, inSeconds, type StepKind } from "@/features/fuses/model/sheetLayout";
import { ServiceSetting, ThroughPart } from "@/features/fuses/panels/ServiceSettings";
import { Connections } from "@/features/setup/Connections";
import { healthWords } from "@/features/setup/health";
import { around, fields } from "./kinds";
import { person, show } from "./show";

const kind: StepKind = {
  key: "crm-deal",
  label: "Deal",
  lane: "systems",
  service: "ledger",
  results: ["id"],
  resultsFrom: null,
  settings: [
    { key: "match", label: "Known again by", type: "choice", optional: false, choices: [{ value: "email", label: "their email" }] },
    { key: "pipeline", label: "Pipeline", type: "listed", optional: false, list: "pipelines" },
    { key: "stage", label: "Stage", type: "listed", optional: false, list: "stages", listNeeds: ["pipeline"] },
    { key: "fields", label: "Fields", type: "columns", optional: false, list: "fields" },
    { key: "note", label: "Note", type: "words", optional: true },
  ],
};
const setting = (key: string) => kind.settings.find((s) => s.key === key) as Schemas["StepSetting"];
const step = (settings: Record<string, string> = {}): Schemas["Step"] => ({
  id: "s",
  name: "Deal",
  kind: kind.key,
  moment: inSeconds(0),
  settings,
});
const definition: Schemas["FuseDefinition"] = {
  name: "x",
  litBy: [],
  relight: "always",
  stopOn: [],
  ageLimitHours: 24,
  bands: [{ id: "always", name: "Always", entry: entryOf("always"), steps: [], eachTime: false }],
};
const whole = { fuse: { id: "f", clientId: "c1" }, around: { ...around, kinds: [kind] } } as unknown as Schemas["FuseDetail"];
const item = (key: string, name: string, required = false): Schemas["ListItem"] => ({ key, name, required, about: null });

/** One setting of a step that its changes change; returns how its settings stand, and what was asked. */
function open(key: string, list: Schemas["ServiceListing"], settings: Record<string, string> = {}) {
  const seen = { settings };
  function Host() {
    const [now, setNow] = useState(settings);
    seen.settings = now;
    return (
      <ServiceSetting
        setting={setting(key)}
        step={step(now)}
        whole={whole}
        definition={definition}
        rules={null}
        mayEdit
        onChange={(next) => setNow(next)}
      />
    );
  }
  const asked = show(<Host />, { answers: { "POST /api/connections/lists": list } });
  return { seen, asked };
}

describe("columns of a service", () => {
  const items = [item("last", "Last name", true), item("size", "Fleet-size"), item("company", "Company"), item("hat", "Hat")];

  test("demanded and filled ones stand open, a search opens others, and what is gone is said", () => {
    const shown = columnsShown("fields", { "fields.size": "x", "fields.old": "y", match: "email" }, items, "");
    expect(shown.shown.map((c) => [c.key, c.gone])).toEqual([
      ["last", false],
      ["size", false],
      ["old", true],
    ]);
    expect(shown.more).toBe(2);
    expect(columnsShown("fields", {}, items, "HÁT").shown.map((c) => c.key)).toEqual(["last", "hat"]);
    expect(columnsShown("fields", { "fields.old": "y" }, [], "").shown[0]?.gone).toBe(false);
  });

  test("a lead field fits by its name or key, and only into what is empty", () => {
    expect(fits("fields", {}, items, fields)).toEqual([
      { key: "fields.size", words: "{{ lead.fleet_size }}" },
      { key: "fields.company", words: "{{ lead.company }}" },
    ]);
    expect(fits("fields", { "fields.size": "1" }, items, fields)).toHaveLength(1);
    expect(fieldAlone(" {{ lead.company }}", fields)?.key).toBe("company");
    expect(fieldAlone("{{ lead.company }} Ltd", fields)).toBeNull();
  });

  test("another pipeline takes the stage out, and an empty value the setting", () => {
    expect(emptied({ pipeline: "b", stage: "won", note: "n" }, whole.around, kind.key, "pipeline")).toEqual({ pipeline: "b", note: "n" });
    expect(withSettings(step({ a: "1", b: "2" }), "a", "")).toEqual({ b: "2" });
  });

  test("a new step of the Systems lane begins empty but for its first choice", () => {
    const made = withNewStep(definition, "always", kind, {});
    expect(made.definition.bands[0]?.steps[0]?.settings).toEqual({ match: "email", pipeline: "", stage: "" });
  });

  it("fills what fits with one press, takes fields one by one, and words of one's own", async () => {
    const { seen } = open("fields", { items, fault: null, needs: [] });
    expect(await screen.findByText("It is demanded there.")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Fill what fits (2)" }));
    expect(seen.settings).toEqual({ "fields.size": "{{ lead.fleet_size }}", "fields.company": "{{ lead.company }}" });
    await userEvent.selectOptions(screen.getByLabelText("Last name"), "company");
    expect(seen.settings["fields.last"]).toBe("{{ lead.company }}");
    await userEvent.selectOptions(screen.getByLabelText("Company"), "");
    expect(seen.settings).not.toHaveProperty("fields.company");
    await userEvent.type(screen.getByLabelText(/Another field to fill/), "hat");
    await userEvent.selectOptions(screen.getByLabelText("Hat"), "every answer");
    expect(seen.settings["fields.hat"]).toBe("{{ answers }}");
    await userEvent.selectOptions(screen.getByLabelText("Hat"), "words of my own");
    await userEvent.type(screen.getByLabelText("Words for Hat"), "!");
    expect(seen.settings["fields.hat"]).toBe("{{ answers }}!");
  });

  it("asks again on request, and says why there is no list", async () => {
    const { asked } = open("fields", { items: null, fault: "Ledger answered 401", needs: [] });
    expect(await screen.findByText("Ledger answered 401")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Refresh" }));
    expect(asked.at(-1)?.body).toMatchObject({ client: "brackenwheel", step: "crm-deal", setting: "fields", again: true });
  });
});

describe("one of a service's list", () => {
  it("waits for what must be chosen first", async () => {
    open("stage", { items: null, fault: null, needs: ["Pipeline"] });
    expect(await screen.findByText("Choose pipeline first.")).toBeInTheDocument();
  });

  it("is chosen, and said to be gone when it is", async () => {
    const { seen } = open("pipeline", { items: [item("a", "Leases")], fault: null, needs: [] }, { pipeline: "old", stage: "won" });
    expect(await screen.findByText("“old” is not there any more.")).toBeInTheDocument();
    await userEvent.selectOptions(screen.getByLabelText("Pipeline"), "a");
    expect(seen.settings).toEqual({ pipeline: "a" });
  });

  it("is asked through which connection only where there are two, or one is broken", async () => {
    const chosen = vi.fn();
    const through = (connections: Schemas["ContextConnection"][], value = "") =>
      show(<ThroughPart service="ledger" chosen={value} around={{ ...around, connections }} onChange={chosen} />);
    const [a, b] = [
      { id: "a", kind: "ledger", name: "First", fault: null },
      { id: "b", kind: "ledger", name: "Second", fault: "The access ran out." },
    ] as const;
    through([a]);
    expect(screen.queryByLabelText("Through")).toBeNull();
    through([b]);
    expect(screen.getByText("Second: The access ran out.")).toBeInTheDocument();
    through([a, b]);
    await userEvent.selectOptions(screen.getByLabelText("Through"), "b");
    expect(chosen).toHaveBeenCalledWith("b");
  });
});

describe("connections", () => {
  const row: Schemas["ConnectionRow"] = {
    id: "k1",
    client: "Brackenwheel",
    kind: "ledger",
    service: "Ledger",
    name: "Our ledger",
    account: "Brackenwheel",
    state: "partial",
    fault: "“deals” was not given.",
    granted: ["contacts"],
    expiresAt: null,
    verifiedAt: null,
    goodAt: null,
    pausedAt: null,
    pausedBy: null,
    atOnce: null,
    perMinute: null,
    olderUntil: null,
    makesSecret: false,
    madeAt: null,
    madeBy: null,
    usedBy: ["Into the ledger"],
    byConsent: false,
    canVerify: true,
    asks: [{ key: "token", label: "Token", secret: true, optional: false, hint: null }],
    health: { lastGood: null, taken: 3, failed: 1, waiting: 2, medianMs: 120 },
  };
  const card: Schemas["ConnectorCard"] = {
    kind: "ledger",
    name: "Ledger",
    what: "customer records",
    asks: [{ key: "address", label: "Address", secret: false, optional: false, hint: null }, ...row.asks],
    permissions: [{ key: "deals", name: "write deals", without: "no deal is made" }],
    guide: ["Sign in there."],
  };

  it("says how each does, and takes another key without touching fuses", async () => {
    const asked = show(<Connections one={undefined} />, {
      answers: { "GET /api/connections": { connections: [row] }, "PUT /api/connections/k1/access": { ...row, state: "whole" } },
    });
    expect(
      await screen.findByText("Used by Into the ledger. 3 taken in 24 h, 120 ms as a rule. 1 failed (25 %). 2 waiting."),
    ).toBeInTheDocument();
    expect(screen.getByText("“deals” was not given.")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "New key" }));
    await userEvent.type(screen.getByLabelText("Token"), "fresh");
    await userEvent.click(screen.getByRole("button", { name: "Try it and use it from now on" }));
    expect(asked.find((a) => a.method === "PUT")?.body).toEqual({ values: { token: "fresh" } });
  });

  it("connects a service with the guide beside, and a refusal stands at its field", async () => {
    const asked = show(<Connections one={person.clients[0]} />, {
      answers: {
        "GET /api/connections": { connections: [] },
        "GET /api/connections/services": { services: [card] },
        "POST /api/connections": {
          status: 400,
          body: { code: "bad-input", title: "Something in the request is not right.", errors: { address: ["Write the whole address."] } },
        },
      },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Connect a service" }));
    await userEvent.click(await screen.findByRole("radio", { name: "Ledger" }));
    expect(screen.getByText("Sign in there.")).toBeInTheDocument();
    expect(screen.getByText("write deals; without it no deal is made")).toBeInTheDocument();
    await userEvent.type(screen.getByLabelText("Address"), "ledger");
    await userEvent.type(screen.getByLabelText("Token"), "t");
    await userEvent.click(screen.getByRole("button", { name: "Try it and keep it" }));
    expect(await screen.findByText("Write the whole address.")).toBeInTheDocument();
    expect(asked.find((a) => a.method === "POST" && a.path === "/api/connections")?.body).toEqual({
      client: "brackenwheel",
      kind: "ledger",
      name: "",
      values: { address: "ledger", token: "t" },
    });
  });

  test("health is told in a sentence, and silence too", () => {
    const now = Date.parse("2026-11-25T12:00:00Z");
    expect(healthWords(null, now)).toBeNull();
    expect(healthWords({ lastGood: null, taken: 0, failed: 0, waiting: 0, medianMs: null }, now)).toBe("Nothing went through in 24 h.");
    expect(healthWords({ lastGood: "2026-11-25T11:59:00Z", taken: 1200, failed: 0, waiting: 0, medianMs: 2500 }, now)).toBe(
      "1,200 taken in 24 h, 2.5 s as a rule. Last good 1 m 00 ago.",
    );
  });
});
