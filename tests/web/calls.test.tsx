import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { CallLine } from "@/features/calls/CallLine";
import { CallOfLead, OnThePhone } from "@/features/calls/OnThePhone";
import { OrderedPart } from "@/features/fuses/panels/OrderedPart";
import { HowToTell } from "@/features/notices/HowToTell";
import { show } from "./show";

/** Calls that go on: who is rung, who talks, for how long; and hanging up. */

afterEach(() => vi.unstubAllGlobals());

const now = Date.parse("2026-11-25T09:41:20Z");
const call = (more: Partial<Schemas["CallShown"]> = {}): Schemas["CallShown"] => ({
  id: "k1",
  leadId: "l1",
  lead: "Bram Okafor",
  stage: "ringing-team",
  outcome: null,
  because: null,
  by: null,
  beganAt: "2026-11-25T09:41:07Z",
  joinedAt: null,
  endedAt: null,
  step: "Ring through",
  phones: [{ who: "Imke Sandoval", ofLead: false, state: "ringing" }],
  ...more,
});
const line = () => screen.getByRole("group", { name: "Call with Bram Okafor" });

describe("a call as a line", () => {
  test("tells who is rung and since when", () => {
    show(<CallLine call={call()} now={now} mayHangUp={false} />);
    expect(line()).toHaveTextContent("Imke Sandoval rings");
    expect(line()).toHaveTextContent("ringing the team 13 s");
    expect(line()).toHaveTextContent("Bram Okafor is not rung yet");
    expect(screen.queryByRole("button")).not.toBeInTheDocument();
  });

  test("tells who passed and who took it", () => {
    const phones: Schemas["PhoneShown"][] = [
      { who: "Imke Sandoval", ofLead: false, state: "over" },
      { who: "Tobias Renn", ofLead: false, state: "accepted" },
      { who: "Bram Okafor", ofLead: true, state: "ringing" },
    ];
    show(<CallLine call={call({ stage: "ringing-lead", phones })} now={now} mayHangUp />);
    expect(line()).toHaveTextContent("Imke Sandoval is out");
    expect(line()).toHaveTextContent("Tobias Renn took it");
    expect(line()).toHaveTextContent("ringing them 13 s");
    expect(line()).toHaveTextContent("Bram Okafor rings");
  });

  test("counts how long two have talked", () => {
    const phones: Schemas["PhoneShown"][] = [
      { who: "Tobias Renn", ofLead: false, state: "joined" },
      { who: "Bram Okafor", ofLead: true, state: "joined" },
    ];
    show(<CallLine call={call({ stage: "joined", joinedAt: "2026-11-25T09:41:12Z", phones })} now={now} mayHangUp />);
    expect(line()).toHaveTextContent("talking 8 s");
  });

  test("is hung up by a press, and says why not", async () => {
    const asked = show(<CallLine call={call()} now={now} mayHangUp />, {
      answers: { "POST /api/calls/k1/hang-up": { status: 409, body: { title: "That cannot be done.", detail: "It is over already." } } },
    });
    await userEvent.click(screen.getByRole("button", { name: "Hang up" }));
    await waitFor(() => expect(screen.getByRole("alert")).toHaveTextContent("It is over already."));
    expect(asked.map((a) => `${a.method} ${a.path}`)).toContain("POST /api/calls/k1/hang-up");
  });
});

test("the Watch shows all calls with links to their leads, and nothing while there are none", async () => {
  show(<OnThePhone clientKey={undefined} />, {
    answers: { "GET /api/calls": { calls: [call(), call({ id: "k2", leadId: "l2", lead: "Ines Calloway" })] } },
  });
  expect(await screen.findByRole("link", { name: "Ines Calloway" })).toHaveAttribute("href", "/leads/l2");
  expect(screen.getByRole("heading", { name: /On the phone 2/ })).toBeInTheDocument();
});

test("a lead's page shows its own call alone", async () => {
  show(<CallOfLead leadId="l2" mayHangUp />, {
    answers: { "GET /api/calls": { calls: [call(), call({ id: "k2", leadId: "l2", lead: "Ines Calloway" })] } },
  });
  expect(await screen.findByRole("group", { name: "Call with Ines Calloway" })).toBeInTheDocument();
  expect(screen.queryByRole("group", { name: "Call with Bram Okafor" })).not.toBeInTheDocument();
});

describe("who is rung", () => {
  const known: [string, string][] = [
    ["i", "Imke Sandoval"],
    ["t", "Tobias Renn"],
  ];
  const part = (value: string) => {
    const changed = vi.fn();
    show(
      <OrderedPart
        label="Rung first"
        value={value}
        known={known}
        gone="somebody who is not here any more"
        out="not them"
        onChange={changed}
      />,
    );
    return changed;
  };

  test("is chosen one after the other", async () => {
    const changed = part("i");
    await userEvent.selectOptions(screen.getByLabelText("And, for “Rung first”"), "Tobias Renn");
    expect(changed).toHaveBeenCalledWith("i,t");
  });

  test("stands in an order that can be changed, and is left out", async () => {
    const changed = part("i,t");
    await userEvent.click(screen.getByRole("button", { name: "Tobias Renn, earlier" }));
    expect(changed).toHaveBeenCalledWith("t,i");
    await userEvent.click(screen.getByRole("button", { name: "Imke Sandoval: not them" }));
    expect(changed).toHaveBeenCalledWith("t");
  });

  test("names who left", () => {
    part("gone");
    expect(screen.getByText("somebody who is not here any more")).toBeInTheDocument();
  });
});

test("who does not want to be rung says so once for all fuses", async () => {
  const asked = show(<HowToTell />, { answers: { "PUT /api/session/calls": null } });
  await userEvent.click(screen.getByRole("checkbox", { name: /available/ }));
  await waitFor(() => expect(asked).toContainEqual({ method: "PUT", path: "/api/session/calls", body: { takes: false } }));
});
