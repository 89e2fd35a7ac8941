import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { BurnSheet } from "@/features/burns/BurnSheet";
import { BurnsPage } from "@/features/burns/BurnsPage";
import { standing, stepsWords } from "@/features/burns/useBurns";
import { show } from "./show";

const row: Schemas["BurnRow"] = {
  id: "u1",
  leadId: "l1",
  lead: "Ines Carrow",
  fuseId: "f1",
  fuse: "Test ride, v3",
  client: "Brackenwheel",
  status: "burning",
  litAt: "2026-11-25T09:40:00Z",
  bands: ["Always"],
  waiting: 1,
  sent: 0,
  done: 1,
  failed: 1,
  cancelled: 0,
  held: null,
  setAside: null,
  stop: null,
  nextAt: "2026-11-25T10:40:00Z",
};
const step = (of: Partial<Schemas["BurnStepTold"]>): Schemas["BurnStepTold"] => ({
  stepId: "post",
  step: "Post to the ride desk",
  band: "Always",
  lane: "team",
  status: "done",
  plannedAt: row.litAt,
  dueAt: row.litAt,
  reason: "done",
  entry: 1,
  try: 1,
  deliveryId: "d1",
  settings: { channel: "#ride-desk", words: "Ines Carrow asked" },
  results: { url: "http://ridgeboard/p/1" },
  ...of,
});
const burn: Schemas["BurnDetail"] = {
  row,
  zone: "Europe/London",
  submittedAt: "2026-11-25T09:39:58Z",
  hears: true,
  armed: true,
  reply: { text: "Thursday please", meaning: "choice", choice: "Thursday 15:00" },
  steps: [
    step({}),
    step({ stepId: "sms", step: "Text them", lane: "lead", status: "failed", reason: "no such number", results: null, deliveryId: null }),
    step({ stepId: "later", step: "Ask again", lane: "lead", status: "waiting", settings: null, results: null, deliveryId: null }),
  ],
  silences: [{ band: "No reply", until: "2026-11-25T12:40:00Z" }],
  moments: [{ at: row.litAt, kind: "fuse-lit", band: null, step: null, words: "by the submission on Book a test ride", deliveryId: null }],
};

test("a burn is told step by step, and what failed is done again", async () => {
  const asked = show(<BurnSheet id="u1" zone="Europe/London" close={vi.fn()} />, {
    answers: {
      "GET /api/burns/u1": burn,
      "POST /api/burns/u1/replay": null,
      "POST /api/burns/u1/skip": null,
      "POST /api/burns/u1/stop": null,
    },
  });
  const posted = (await screen.findByText("Post to the ride desk")).closest("li") as HTMLElement;
  expect(within(posted).getByText("Ines Carrow asked")).toBeInTheDocument();
  expect(within(posted).getByText("http://ridgeboard/p/1")).toBeInTheDocument();
  expect(within(posted).getByRole("link", { name: /The delivery/ })).toHaveAttribute("href", "/deliveries/d1");
  expect(screen.getByText(/Thursday please/)).toHaveTextContent("chose Thursday 15:00");
  expect(screen.getByText("by the submission on Book a test ride")).toBeInTheDocument();
  await userEvent.click(screen.getByRole("button", { name: "Do it again" }));
  expect(asked.find((a) => a.path.endsWith("/replay"))?.body).toEqual({ stepId: "sms" });
  await userEvent.click(screen.getByRole("button", { name: "Leave out" }));
  expect(asked.find((a) => a.path.endsWith("/skip"))?.body).toEqual({ stepId: "later" });
  await userEvent.click(screen.getByRole("button", { name: "Stop" }));
  expect(asked.some((a) => a.path === "/api/burns/u1/stop")).toBe(true);
});

test("one that has ended can be lit again", async () => {
  const asked = show(<BurnSheet id="u1" zone="Europe/London" close={vi.fn()} />, {
    answers: {
      "GET /api/burns/u1": { ...burn, hears: false, row: { ...row, status: "ended", nextAt: null } },
      "POST /api/fuses/f1/light": { lit: 1, notRelit: 0 },
    },
  });
  await userEvent.click(await screen.findByRole("button", { name: "Light it again" }));
  expect(asked.find((a) => a.path === "/api/fuses/f1/light")?.body).toEqual({ ids: ["l1"], filter: null });
});

test("one that is set aside says why, and is run again", async () => {
  const asked = show(<BurnSheet id="u1" zone="Europe/London" close={vi.fn()} />, {
    answers: {
      "GET /api/burns/u1": { ...burn, row: { ...row, nextAt: null, setAside: "deciding for it failed: no such step" } },
      "POST /api/burns/u1/run-again": null,
    },
  });
  expect(await screen.findByText(/set aside: deciding for it failed: no such step/)).toBeInTheDocument();
  await userEvent.click(screen.getByRole("button", { name: "Run it again" }));
  expect(asked.some((a) => a.path === "/api/burns/u1/run-again")).toBe(true);
});

test("burns are narrowed by a sentence that stands in the address, and opened beside the list", async () => {
  const asked = show(<BurnsPage />, {
    at: "/fuses/burns?state=failed",
    answers: {
      "GET /api/burns": { items: [row], next: null },
      "GET /api/fuses": { fuses: [{ id: "f1", name: "Test ride", client: "Brackenwheel", state: "armed" }] },
      "GET /api/burns/u1": burn,
    },
  });
  await userEvent.click(await screen.findByRole("button", { name: "Ines Carrow" }));
  expect(await screen.findByRole("complementary", { name: "Ines Carrow's burn" })).toBeInTheDocument();
  expect(screen.getByLabelText("How they stand")).toHaveValue("failed");
  await userEvent.selectOptions(screen.getByLabelText("Of which fuse"), "f1");
  expect(await screen.findByLabelText("Which band")).toBeInTheDocument();
  expect(asked.filter((a) => a.path === "/api/burns").length).toBeGreaterThan(1);
});

test("a burn stands in a word", () => {
  expect(standing(row)).toEqual({ word: "1 step failed", of: "broken" });
  expect(standing({ ...row, failed: 0 }).word).toBe("burning");
  expect(standing({ ...row, held: "ask Imke" }).word).toBe("held");
  expect(standing({ ...row, failed: 0, status: "ended", stop: "they replied" }).word).toBe("stopped");
  expect(stepsWords(row)).toBe("1 done, 1 waits, 1 failed");
});
