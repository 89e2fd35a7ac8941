import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { LeadBurns } from "@/features/leads/LeadBurns";
import { show } from "./show";

/** Fuses burning for a lead: what is still to come, and what a person may do with it. */

afterEach(() => vi.unstubAllGlobals());

const now = Date.parse("2026-11-25T09:41:00Z");
const step = (id: string, status: Schemas["StepStatus"], more: Partial<Schemas["LeadBurnStep"]> = {}): Schemas["LeadBurnStep"] => ({
  stepId: id,
  step: id,
  band: "Always",
  lane: "lead",
  status,
  dueAt: "2026-11-25T10:41:00Z",
  reason: null,
  ...more,
});
const burn = (more: Partial<Schemas["LeadBurn"]> = {}): Schemas["LeadBurn"] => ({
  id: "b1",
  fuseId: "f1",
  fuse: "Test ride, v3",
  status: "burning",
  litAt: "2026-11-25T09:40:00Z",
  held: null,
  setAside: null,
  stop: null,
  hears: true,
  armed: true,
  steps: [],
  silences: [],
  ...more,
});
const burns = (of: Schemas["LeadBurn"][], mayTouch = true, answers: Record<string, unknown> = {}) =>
  show(<LeadBurns leadId="l1" burns={of} mayTouch={mayTouch} now={now} zone="Europe/London" />, { answers });
const press = (name: string | RegExp) => userEvent.click(screen.getByRole("button", { name }));

describe("what is still to come", () => {
  test("is told with when, to whom and why it waits", () => {
    burns([
      burn({
        steps: [
          step("Ask for the month", "waiting", { reason: "waits for send hours" }),
          step("Row in Test rides", "waiting", { lane: "systems", dueAt: "2026-11-26T09:00:00Z" }),
          step("Late already", "waiting", { dueAt: "2026-11-25T09:40:59Z" }),
        ],
        silences: [{ band: "No reply", until: "2026-11-25T12:41:00Z" }],
      }),
    ]);
    expect(screen.getByText("Burning")).toBeInTheDocument();
    expect(screen.getByText("Ask for the month").parentElement).toHaveTextContent("10:41, in 1 h");
    expect(screen.getByText("to them · waits for send hours")).toBeInTheDocument();
    expect(screen.getByText("Row in Test rides").parentElement).toHaveTextContent("Thu 26 Nov 09:00, in 23 h 19");
    expect(screen.getByText("Late already").parentElement).toHaveTextContent("09:40, now");
    expect(screen.getByText("No reply").parentElement).toHaveTextContent(/12:41, in 3 h.*unless they write back before/);
  });

  test("is told of one that only listens, and of steps that a stop cancelled", () => {
    burns([burn({ status: "listening", steps: [step("Letter on day 3", "cancelled", { reason: "they replied" })] })]);
    expect(screen.getByText("nothing waits; it listens for a reply")).toBeInTheDocument();
    expect(screen.getByText("Letter on day 3").parentElement).toHaveTextContent("they replied");
    expect(screen.queryByRole("button", { name: /Leave out/ })).not.toBeInTheDocument();
  });

  test("is nothing where none burns and none can be lit again", () => {
    burns([burn({ hears: false, armed: false, status: "ended" })]);
    expect(screen.queryByText("Burning")).not.toBeInTheDocument();
    expect(screen.queryByRole("button")).not.toBeInTheDocument();
  });
});

describe("what a person may do", () => {
  test("a step is left out, the burn is stopped", async () => {
    const asked = burns([burn({ steps: [step("Ask for the month", "waiting")] })], true, {
      "POST /api/burns/b1/skip": null,
      "POST /api/burns/b1/stop": null,
    });
    await press("Leave out Ask for the month");
    await waitFor(() => expect(asked).toHaveLength(1));
    expect(asked[0]).toMatchObject({ path: "/api/burns/b1/skip", body: { stepId: "Ask for the month" } });
    await press("Stop");
    await waitFor(() => expect(asked.map((a) => a.path)).toContain("/api/burns/b1/stop"));
  });

  test("one that is held says why and is let go on", async () => {
    const asked = burns([burn({ held: "a rep is to read it first" })], true, { "POST /api/burns/b1/let-go": null });
    expect(screen.getByText("held: a rep is to read it first")).toBeInTheDocument();
    await press("Let it go on");
    await waitFor(() => expect(asked.map((a) => a.path)).toEqual(["/api/burns/b1/let-go"]));
  });

  test("what failed stays to be seen after the burn has ended, and is done again", async () => {
    const failed = step("Post to the ride desk", "failed", { lane: "team", reason: "Ridgeboard answered 500" });
    const asked = burns([burn({ status: "ended", hears: false, steps: [failed] })], true, { "POST /api/burns/b1/replay": null });
    const line = screen.getByText("Post to the ride desk").parentElement as HTMLElement;
    expect(line).toHaveTextContent("failedRidgeboard answered 500");
    await userEvent.click(within(line).getByRole("button", { name: "Do it again" }));
    await waitFor(() => expect(asked[0]?.body).toEqual({ stepId: "Post to the ride desk" }));
    expect(screen.queryByRole("button", { name: "Stop" })).not.toBeInTheDocument();
  });

  test("the last that has burnt is lit again, by the name of the fuse and not of its version", async () => {
    const ended = { status: "ended", hears: false } as const;
    const asked = burns([burn(ended), burn({ ...ended, id: "b2", fuseId: "f2", fuse: "Big fleets, v12" })], true, {
      "POST /api/fuses/f2/light": { lit: 1, asked: 1 },
    });
    await press("Light “Big fleets” again");
    await waitFor(() => expect(asked[0]).toMatchObject({ path: "/api/fuses/f2/light", body: { ids: ["l1"], filter: null } }));
  });

  test("is refused with why", async () => {
    burns([burn()], true, {
      "POST /api/burns/b1/stop": { status: 409, body: { code: "burn-over", title: "It has burnt out." } },
    });
    await press("Stop");
    expect(await screen.findByText("It has burnt out.")).toBeInTheDocument();
  });

  test("is not offered to who may only look", () => {
    const steps = [step("Ask for the month", "waiting"), step("Post", "failed")];
    burns([burn({ held: "read it first", steps })], false);
    expect(screen.getByText("Ask for the month")).toBeInTheDocument();
    expect(screen.queryByRole("button")).not.toBeInTheDocument();
  });
});
