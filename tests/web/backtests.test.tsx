import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { BacktestSheet } from "@/features/backtests/BacktestSheet";
import { countWords, lastDays } from "@/features/backtests/useBacktest";
import { entryOf, inSeconds } from "@/features/fuses/model/sheetLayout";
import { countStamps } from "@/features/fuses/model/stamps";
import { RunSheet } from "@/features/fuses/sheet/RunSheet";
import { around } from "./kinds";
import { show } from "./show";

const definition: Schemas["FuseDefinition"] = {
  name: "Test ride",
  litBy: [{ event: "submission", only: { form: ["page"] } }],
  bands: [
    {
      id: "always",
      name: "Always",
      entry: entryOf("always"),
      eachTime: false,
      steps: [{ id: "sms", name: "Text them", kind: "text", moment: inSeconds(0), settings: { words: "Hello" } }],
    },
  ],
};
const whole = {
  fuse: { id: "f1", clientId: "c1", armedVersion: 3, state: "armed" },
  definition,
  around,
} as unknown as Schemas["FuseDetail"];
const side = (sent: number): Schemas["SideTold"] => ({
  lit: 40,
  noBand: 0,
  waited: 7,
  spoken: sent,
  messages: sent,
  texts: sent,
  segments: sent * 2,
  perLead: [40 - sent, sent, 0, 0, 0, 0, 0],
  firstMedianSeconds: 65,
  firstSlowSeconds: 9000,
  bands: [{ id: "always", name: "Always", leads: 40 }],
  steps: [{ id: "sms", bandId: "always", name: "Text them", lane: "lead", sent, waited: 7, cancelled: 2, failed: 0 }],
  desks: [{ who: "#ride-desk", leads: 40, anHour: 1.5, most: 6, mostAt: "2026-11-24T12:00:00Z" }],
});
const row: Schemas["BacktestRow"] = {
  id: "t1",
  status: "done",
  forms: ["page"],
  since: "2026-10-27",
  until: "2026-11-25",
  total: 41,
  leadsDone: 41,
  beside: 3,
  by: "Noor Abernathy-Voss",
  madeAt: "2026-11-25T09:00:00Z",
  endedAt: "2026-11-25T09:00:03Z",
  reason: null,
};
const told: Schemas["BacktestTold"] = {
  leads: 41,
  notLit: [{ because: "fleet size was 1–3", leads: 1 }],
  this: side(38),
  beside: side(30),
  truth: side(29),
};
const done: Schemas["BacktestDetail"] = {
  row,
  told,
  definition,
  besideDefinition: definition,
  segmentPrice: 0.04,
  currency: "GBP",
  same: false,
};

test("the figures stand beside those of the armed version and of what happened, and each opens its leads", async () => {
  const choose = vi.fn();
  show(<BacktestSheet whole={whole} definition={definition} chosen="t1" number={null} choose={choose} close={vi.fn()} />, {
    answers: { "GET /api/backtests/t1": done, "GET /api/fuses/f1/backtests": { backtests: [row] } },
  });
  expect((await screen.findAllByRole("columnheader", { name: "armed v3" })).length).toBe(3);
  const hear = screen.getByRole("row", { name: /hear something/ });
  expect(
    within(hear)
      .getAllByRole("cell")
      .map((c) => c.textContent),
  ).toEqual(["38", "30", "29"]);
  expect(screen.getByRole("row", { name: /they cost/ })).toHaveTextContent("£3.04");
  expect(screen.getByText(/has been edited since/)).toBeInTheDocument();
  expect(screen.getByText(/fleet size was 1–3/)).toBeInTheDocument();
  expect(screen.getByRole("row", { name: /#ride-desk/ })).toHaveTextContent("1.5");
  await userEvent.click(screen.getByRole("button", { name: "30: Text them goes out, armed v3" }));
  expect(choose).toHaveBeenLastCalledWith("t1", { side: "beside", mark: "step-sent:sms" });
});

test("the leads behind a number are listed, with what they got and what they would get", async () => {
  show(
    <BacktestSheet
      whole={whole}
      definition={definition}
      chosen="t1"
      number={{ side: "this", mark: "not-lit" }}
      choose={vi.fn()}
      close={vi.fn()}
    />,
    {
      answers: {
        "GET /api/backtests/t1": done,
        "GET /api/fuses/f1/backtests": { backtests: [row] },
        "GET /api/backtests/t1/leads": {
          leads: [
            {
              leadId: "l-1",
              name: "Ines Carrow",
              askedAt: "2026-11-24T12:00:00Z",
              messages: 0,
              besideMessages: 1,
              truthMessages: 2,
              notLit: "fleet size was 1–3",
            },
          ],
          total: 1,
          page: 1,
          pageSize: 50,
        },
      },
    },
  );
  expect(await screen.findByText("1 lead")).toBeInTheDocument();
  expect(screen.getByText(/it is not lit, as it stands/)).toBeInTheDocument();
  expect(screen.getByRole("link", { name: "Ines Carrow" })).toHaveAttribute("href", "/leads/l1");
  expect(screen.getByText(/0 as it stands, 1 by the armed version, 2 in truth/)).toBeInTheDocument();
});

test("one is begun for the forms that light the fuse, and shows how far it is", async () => {
  const choose = vi.fn();
  const asked = show(<BacktestSheet whole={whole} definition={definition} chosen={null} number={null} choose={choose} close={vi.fn()} />, {
    answers: { "GET /api/fuses/f1/backtests": { backtests: [] }, "POST /api/fuses/f1/backtests": { id: "t2" } },
  });
  await userEvent.click(screen.getByRole("button", { name: "Put them through" }));
  const body = asked.find((a) => a.method === "POST")?.body as { forms: string[]; segmentPrice: number | null };
  expect([body.forms, body.segmentPrice]).toEqual([["page"], null]);
  expect(choose).toHaveBeenCalledWith("t2");
});

test("while it runs it says how far it is and can be cancelled", async () => {
  const asked = show(<BacktestSheet whole={whole} definition={definition} chosen="t1" number={null} choose={vi.fn()} close={vi.fn()} />, {
    answers: {
      "GET /api/backtests/t1": { ...done, told: null, row: { ...row, status: "running", leadsDone: 20 } },
      "GET /api/fuses/f1/backtests": { backtests: [] },
      "POST /api/backtests/t1/cancel": null,
    },
  });
  expect(await screen.findByRole("progressbar")).toHaveAttribute("aria-valuenow", "49");
  await userEvent.click(screen.getByRole("button", { name: "Cancel" }));
  expect(asked.some((a) => a.path === "/api/backtests/t1/cancel")).toBe(true);
});

test("counts are drawn on the sheet", () => {
  show(
    <RunSheet
      whole={{ around, faults: [], counts: null }}
      definition={definition}
      mayEdit={false}
      openStep={undefined}
      openBand={undefined}
      onStep={vi.fn()}
      onBand={vi.fn()}
      onAddStep={vi.fn()}
      onAddBand={vi.fn()}
      stamps={countStamps(told)}
    />,
  );
  expect(screen.getByText("40 of 41 leads")).toBeInTheDocument();
  expect(within(screen.getByRole("button", { name: /^Text them/ })).getByText("◆ 38")).toBeInTheDocument();
  expect(within(screen.getByRole("button", { name: /^Text them/ })).getByText("7 wait · 2 cancelled")).toBeInTheDocument();
});

test("numbers say what they count, and periods end today", () => {
  expect(countWords("step-waited:sms", definition)).toBe("“Text them” waits for its hours");
  expect(countWords("messages:6", definition)).toBe("they get 6 messages or more");
  expect(lastDays(7, Date.parse("2026-11-25T23:30:00Z"), "Europe/London")).toEqual({ since: "2026-11-19", until: "2026-11-25" });
});
