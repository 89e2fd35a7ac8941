import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { TakePage } from "@/features/leads/TakePage";
import { person, show } from "./show";

/** Where the link in a post leads. */

afterEach(() => vi.unstubAllGlobals());

const row: Schemas["LeadRow"] = {
  id: "l1",
  clientId: "c1",
  name: "Ines Calloway",
  email: "ines@example.com",
  phone: "+441134960042",
  form: "Book a test ride",
  source: "Pagewright",
  test: false,
  asked: "25+, parcels",
  askedAt: "2026-11-25T09:31:07Z",
  targetAt: "2026-11-25T09:36:07Z",
  takenBy: null,
  takenAt: null,
  firstTouchAt: null,
  firstTouchBy: null,
  ticks: [],
  owner: null,
  tags: [],
  doNotContact: false,
  fields: {},
};
const page = (of: Partial<Schemas["LeadRow"]> | { status: number; body: unknown }, more: Record<string, unknown> = {}) => {
  const answers: Record<string, unknown> = {
    "GET /api/leads/by-link/signed": "status" in of ? of : { ...row, ...of },
    "POST /api/leads/l1/take": null,
    "POST /api/leads/l1/release": null,
    ...more,
  };
  const asked = show(<TakePage />, { path: "/take/:token", at: "/take/signed", answers });
  return { asked, answers };
};

test("the lead is taken with one press, and can then be rung or given back", async () => {
  const { asked, answers } = page({});
  expect(await screen.findByText("Ines Calloway")).toBeInTheDocument();
  expect(screen.getByText("25+, parcels")).toBeInTheDocument();
  expect(screen.getByText(/^Nobody has it yet/)).toBeInTheDocument();
  expect(screen.queryByRole("link", { name: /^Ring/ })).not.toBeInTheDocument();
  answers["GET /api/leads/by-link/signed"] = { ...row, takenBy: person.name, takenAt: "2026-11-25T09:41:00Z" };
  await userEvent.click(screen.getByRole("button", { name: "Take it" }));
  expect(await screen.findByText("You have it.")).toBeInTheDocument();
  expect(asked.some((a) => a.path === "/api/leads/l1/take")).toBe(true);
  expect(screen.getByRole("link", { name: "Ring +441134960042" })).toHaveAttribute("href", "tel:+441134960042");
  answers["GET /api/leads/by-link/signed"] = row;
  await userEvent.click(screen.getByRole("button", { name: "Give it back" }));
  expect(await screen.findByRole("button", { name: "Take it" })).toBeInTheDocument();
});

test("who comes second reads who has it, and cannot ring", async () => {
  page({ takenBy: "Tobias Renn", takenAt: "2026-11-25T09:40:07Z" });
  expect(await screen.findByText("Tobias Renn has it")).toBeInTheDocument();
  expect(screen.queryByRole("button", { name: "Take it" })).not.toBeInTheDocument();
  expect(screen.queryByRole("link", { name: /^Ring/ })).not.toBeInTheDocument();
});

test("who presses at the same moment as another hears of it", async () => {
  page(
    {},
    {
      "POST /api/leads/l1/take": {
        status: 409,
        body: { code: "already-taken", title: "It is taken.", detail: "Tobias Renn has Ines Calloway." },
      },
    },
  );
  await userEvent.click(await screen.findByRole("button", { name: "Take it" }));
  expect(await screen.findByText("Tobias Renn has Ines Calloway.")).toBeInTheDocument();
});

test("one that was reached is said to be, with how soon", async () => {
  page({ takenBy: "Tobias Renn", firstTouchAt: "2026-11-25T09:33:07Z", firstTouchBy: "Tobias Renn" });
  expect(await screen.findByText("Tobias Renn has reached out")).toBeInTheDocument();
  expect(screen.getByRole("status")).toHaveTextContent("2 m 00 after they asked");
});

test("who may only look has nothing to press", async () => {
  page({ clientId: "another" });
  expect(await screen.findByText("Ines Calloway")).toBeInTheDocument();
  expect(screen.queryByRole("button", { name: "Take it" })).not.toBeInTheDocument();
});

test("a link that ran out says so", async () => {
  page({ status: 404, body: { code: "not-there", title: "There is nothing here.", detail: "This link is no longer good." } });
  await waitFor(() => expect(screen.getByText("This link is no longer good.")).toBeInTheDocument());
});
