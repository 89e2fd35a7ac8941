import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { placeOn } from "@/features/deliveries/AttemptLine";
import { DeliveriesPage } from "@/features/deliveries/DeliveriesPage";
import { filterOf, moment, narrowingOf } from "@/features/deliveries/useDeliveries";
import { howLong, laidOut, replayWords, standing } from "@/features/deliveries/words";
import { inSeconds } from "@/features/fuses/model/sheetLayout";
import { counts, JsonBody, jsonFault, Pairs, pairsOf } from "@/features/fuses/panels/OwnNames";
import { TryStep } from "@/features/fuses/panels/TryStep";
import { SendTo } from "@/features/leads/SendTo";
import { LimitsForm, SecretForm } from "@/features/setup/ConnectionFlow";
import { Files } from "@/features/setup/Files";
import { show } from "./show";

const row: Schemas["DeliveryRow"] = {
  id: "d1",
  client: "Brackenwheel",
  leadId: "l1",
  lead: "Ines Carrow",
  test: false,
  connectionId: "k1",
  connection: "Jobrack",
  kind: "ticket",
  what: "Ticket in Jobrack",
  lane: "systems",
  step: "Ticket",
  fuse: "Test ride, v2",
  status: "due",
  reason: "Jobrack answered 500",
  attempts: 2,
  madeAt: "2026-11-25T09:40:00Z",
  dueAt: "2026-11-25T09:42:00Z",
  sentAt: null,
  endedAt: null,
};
const queue: Schemas["ConnectionQueue"] = {
  id: "k1",
  client: "Brackenwheel",
  name: "Jobrack",
  pausedAt: null,
  pausedBy: null,
  waiting: 3,
  stuck: 2,
  failed: 1,
  oldest: "2026-11-25T09:40:00Z",
  lastWord: "Jobrack answered 500",
};
const whole: Schemas["DeliveryDetail"] = {
  row,
  key: "k.1",
  reference: null,
  settings: {},
  attempts: [
    {
      number: 1,
      beganAt: "2026-11-25T09:40:01Z",
      tookMs: 12,
      status: "due",
      reason: "Jobrack answered 500",
      exchanges: [
        {
          asked: "POST http://x/api",
          headers: { Authorization: "Bearer •••" },
          sent: '{"a":1}',
          status: 500,
          answer: "broken",
          tookMs: 11,
        },
      ],
    },
  ],
};
const now = Date.parse("2026-11-25T09:41:00Z");

test("a delivery's standing is a word, and its time a distance", () => {
  expect(standing(row)).toEqual({ word: "retrying", of: "broken" });
  expect(standing({ status: "due", attempts: 0 }).word).toBe("waiting");
  expect(standing({ status: "cancelled", attempts: 0 }).word).toBe("cancelled");
  expect(standing({ status: "done", attempts: 1 }).of).toBe("whole");
  expect(howLong(row, now)).toBe("waits 1 m 00, next in 1 m 00");
  expect(howLong({ ...row, status: "done", sentAt: "2026-11-25T09:40:00.097Z" }, now)).toBe("97 ms after it was decided");
  expect(howLong({ ...row, status: "failed" }, now)).toBe("");
});

test("what a replay does is said before it is done", () => {
  expect(replayWords({ replayed: 3, failed: 2, taken: 1, leftOut: 4 })).toBe(
    "Sends again 2 that failed, each under the key it had, and 1 that had been delivered, each as another thing. 4 stay as they are.",
  );
  expect(replayWords({ replayed: 1, failed: 1, taken: 0, leftOut: 1 })).toContain("1 stays as it is.");
  expect(replayWords({ replayed: 0, failed: 0, taken: 0, leftOut: 0 })).toBe("None of these can be sent again.");
});

test("the sentence that narrows stands in the address, and odd times narrow nothing", () => {
  const n = narrowingOf(new URLSearchParams("state=failed&from=2026-11-25T09:00&to=soon&other=1"));
  expect(n).toEqual({ state: "failed", from: "2026-11-25T09:00", to: "soon" });
  const filter = filterOf("brackenwheel", n);
  expect(filter.from).toMatch(/^2026-11-25T/);
  expect(filter.to).toBeNull();
  expect(moment(undefined)).toBeUndefined();
});

test("the first seconds are as wide as the hours after them", () => {
  expect(placeOn(0, 3600)).toBe(0);
  expect(placeOn(3600, 3600)).toBe(1);
  expect(placeOn(10, 3600)).toBeGreaterThan(0.3);
  expect(placeOn(5, 0)).toBe(0);
});

test("JSON is laid out, anything else is left as it is", () => {
  expect(laidOut('{"a":1}')).toBe('{\n  "a": 1\n}');
  expect(laidOut("<html>")).toBe("<html>");
  expect(laidOut(null)).toBe("");
});

describe("the page", () => {
  const answers = {
    "GET /api/deliveries": { items: [row], next: null, queues: [queue] },
    "GET /api/deliveries/d1": whole,
    "GET /api/connections": { connections: [] },
    "POST /api/connections/k1/pause": null,
    "POST /api/deliveries/d1/give-up": null,
    "POST /api/deliveries/replay": { replayed: 1, failed: 1, taken: 0, leftOut: 0 },
  };
  it("shows what is stuck, where, and pauses it", async () => {
    const asked = show(<DeliveriesPage />, { path: "/deliveries/:deliveryId?", at: "/deliveries", answers });
    const line = await screen.findByRole("group", { name: "Jobrack of Brackenwheel" });
    expect(line.textContent).toContain("2 to be tried again");
    await userEvent.click(screen.getByRole("button", { name: "Pause Jobrack of Brackenwheel" }));
    await waitFor(() => expect(asked.some((a) => a.path === "/api/connections/k1/pause")).toBe(true));
  });
  it("opens one with every attempt, and gives it up", async () => {
    const asked = show(<DeliveriesPage />, { path: "/deliveries/:deliveryId?", at: "/deliveries/d1", answers });
    expect(await screen.findByText("Authorization: Bearer •••")).toBeTruthy();
    expect(screen.getByText("answered 500 in 11 ms")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Give it up" }));
    await waitFor(() => expect(asked.some((a) => a.path.endsWith("/give-up"))).toBe(true));
  });
  it("counts what would be sent again before it is sent", async () => {
    const asked = show(<DeliveriesPage />, { path: "/deliveries/:deliveryId?", at: "/deliveries?state=failed", answers });
    await userEvent.click(await screen.findByRole("button", { name: "Send these again…" }));
    expect(await screen.findByText("Sends again 1 that failed, each under the key it had.")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Send that one again" }));
    expect(await screen.findByText("1 is being sent again.")).toBeTruthy();
    const bodies = asked.filter((a) => a.path === "/api/deliveries/replay").map((a) => a.body as { justCount: boolean });
    expect(bodies.map((b) => b.justCount)).toEqual([true, false]);
  });
});

const setting = (more: Partial<Schemas["StepSetting"]>): Schemas["StepSetting"] => ({
  key: "query",
  label: "Query",
  type: "pairs",
  optional: true,
  ...more,
});
const step = (settings: Record<string, string>): Schemas["Step"] => ({
  id: "s1",
  name: "Call",
  kind: "api-call",
  moment: inSeconds(0),
  settings,
});

describe("names of one's own", () => {
  it("are added, filled and taken out", async () => {
    const seen: Record<string, string>[] = [];
    function Host() {
      const [settings, setSettings] = useState<Record<string, string>>({ "query.a": "1", other: "x" });
      seen.push(settings);
      return <Pairs setting={setting({})} step={step(settings)} onChange={setSettings} />;
    }
    show(<Host />);
    await userEvent.type(screen.getByLabelText("Another name for query"), "source{Enter}");
    await userEvent.type(screen.getByLabelText("source"), "x");
    expect(seen.at(-1)).toEqual({ "query.a": "1", other: "x", "query.source": "x" });
    await userEvent.click(screen.getByRole("button", { name: "Take out a" }));
    expect(pairsOf("query", seen.at(-1) ?? {})).toEqual([["source", "x"]]);
  });
  it("count only while another setting has its value", () => {
    expect(counts(setting({ onlyIf: { setting: "send", value: "form" } }), { send: "json" })).toBe(false);
    expect(counts(setting({}), {})).toBe(true);
  });
  it("JSON that is typed says where it goes wrong", async () => {
    expect(jsonFault("")).toBeNull();
    expect(jsonFault('{"a": 1}')).toBeNull();
    expect(jsonFault("{a")).toMatch(/^It is not JSON yet/);
    const change = vi.fn();
    show(
      <JsonBody setting={setting({ key: "body", label: "JSON", type: "json", default: '{"n": 1}' })} step={step({})} onChange={change} />,
    );
    await userEvent.click(screen.getByRole("button", { name: "write my own" }));
    expect(change).toHaveBeenCalledWith({ body: '{\n  "n": 1\n}' });
  });
});

test("a step is tried, and what it left is taken back", async () => {
  const tried: Schemas["StepTried"] = {
    lead: "Ines Carrow",
    end: "accepted",
    reason: "Ringbarrow took it",
    exchanges: whole.attempts[0]?.exchanges ?? [],
    results: { id: "D-1" },
    curl: "curl -X PUT 'http://x'",
    connectionId: "k1",
    reference: "D-1",
  };
  const asked = show(<TryStep step={step({})} clientId="c1" broken={false} message={false} />, {
    answers: {
      "GET /api/leads": { items: [{ id: "l7", name: "Ines Carrow" }] },
      "POST /api/connections/try": tried,
      "POST /api/connections/k1/take-back": { gone: true },
    },
  });
  await userEvent.selectOptions(
    screen.getByLabelText("as a test, with the answers of"),
    await screen.findByRole("option", { name: "Ines Carrow" }),
  );
  await userEvent.click(screen.getByRole("button", { name: "Try it" }));
  expect(await screen.findByText("Ringbarrow took it.")).toBeTruthy();
  expect(asked.find((a) => a.path.endsWith("/try"))?.body).toMatchObject({ leadId: "l7" });
  expect(screen.getByText("id: D-1")).toBeTruthy();
  await userEvent.click(screen.getByRole("button", { name: "Take it back there" }));
  expect(await screen.findByText("It is gone there.")).toBeTruthy();
  expect(asked.at(-1)?.body).toEqual({ kind: "api-call", reference: "D-1" });
});

test("leads are sent by hand after they were counted", async () => {
  const asked = show(<SendTo client="brackenwheel" ids={["l1", "l2"]} filter={null} />, {
    answers: {
      "GET /api/deliveries/pushable": {
        steps: [{ fuseId: "f1", fuse: "Test ride", stepId: "s1", step: "Dial", what: "Onto a dial list", connection: "Ringbarrow" }],
      },
      "POST /api/deliveries/push": { pushed: 2, through: "Ringbarrow" },
    },
  });
  await screen.findByRole("option", { name: "Ringbarrow: “Dial” of Test ride" });
  await userEvent.selectOptions(screen.getByLabelText("Send them to"), "f1/s1");
  await userEvent.click(screen.getByRole("button", { name: "Send…" }));
  await userEvent.click(await screen.findByRole("button", { name: "Send 2 to Ringbarrow" }));
  expect(await screen.findByText("2 on their way to Ringbarrow.")).toBeTruthy();
  expect(asked.at(-1)?.body).toMatchObject({ ids: ["l1", "l2"], fuseId: "f1", stepId: "s1", justCount: false });
});

test("files are there to be had, and one is sent every night", async () => {
  const asked = show(<Files client="brackenwheel" zone="Europe/London" />, {
    answers: {
      "GET /api/sheets": { sheets: [{ client: "Brackenwheel", name: "All who asked", rows: 2, lastAt: "2026-11-25T09:00:00Z" }] },
      "GET /api/nightly-files": { files: [], doors: [{ id: "k1", client: "Brackenwheel", name: "Namewell", asks: "Folder there" }] },
      "POST /api/nightly-files": { status: 400, body: { title: "Bad", errors: { to: ["Write the folder's path."] } } },
    },
  });
  expect((await screen.findByRole("link", { name: "All who asked as XLSX" })).getAttribute("href")).toContain("format=xlsx");
  await userEvent.click(await screen.findByRole("button", { name: "Send a file every night" }));
  await userEvent.type(screen.getByLabelText("Folder there"), "x");
  await userEvent.click(screen.getByRole("button", { name: "Send it every night" }));
  expect(await screen.findByText("Write the folder's path.")).toBeTruthy();
  expect(asked.find((a) => a.method === "POST")?.body).toMatchObject({
    connectionId: "k1",
    to: "x",
    format: "csv",
    ofTheDay: true,
    at: "02:30",
  });
});

test("limits are numbers or nothing, and a new secret is told once", async () => {
  const connection = { id: "k1", atOnce: 4, perMinute: null } as Schemas["ConnectionRow"];
  const done = vi.fn();
  const asked = show(
    <>
      <LimitsForm connection={connection} done={done} />
      <SecretForm connection={connection} done={done} />
    </>,
    { answers: { "PUT /api/connections/k1/limits": null, "POST /api/connections/k1/secret": { ...connection, secret: "whsec_abc" } } },
  );
  await userEvent.clear(screen.getByLabelText("At once, at most"));
  await userEvent.type(screen.getByLabelText("In a minute, at most"), "60");
  await userEvent.click(screen.getByRole("button", { name: "Keep to it" }));
  await waitFor(() => expect(asked.at(-1)?.body).toEqual({ atOnce: null, perMinute: 60 }));
  await userEvent.click(screen.getByRole("button", { name: "Make a new secret" }));
  expect(await screen.findByText("whsec_abc")).toBeTruthy();
});
