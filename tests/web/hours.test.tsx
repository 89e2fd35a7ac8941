import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { Hours } from "@/features/setup/Hours";
import { show } from "./show";

/** A client's hours, days off and limits. */

afterEach(() => vi.unstubAllGlobals());

const hours: Schemas["ClientHours"] = {
  sendFrom: "08:00:00",
  sendTo: "20:30:00",
  workFrom: "08:00:00",
  workTo: "18:00:00",
  workDays: [1, 2, 3, 4, 5, 6],
  targetMinutes: 5,
  holidays: [{ day: "2026-12-25", name: "Christmas" }],
  mostADay: 0,
  segmentPrice: 4,
};
const told: Schemas["ClientHoursTold"] = {
  hours,
  zone: "Europe/London",
  currency: "GBP",
  segments: 1250,
  laws: [
    { country: "FR", for: "calls", name: "the hours of French law", source: "décret n° 2022-1313", hours: "Monday to Friday 10:00–13:00" },
  ],
};
const page = (answers: Record<string, unknown> = {}) =>
  show(<Hours clientId="c1" />, { answers: { "GET /api/clients/c1/hours": told, ...answers } });
const put = "PUT /api/clients/c1/hours";

test("what the month's texts cost stands beside the price of a segment", async () => {
  page();
  expect(await screen.findByText("1,250 segments went out this month: £50.00.")).toBeInTheDocument();
  expect(screen.getByRole("button", { name: "Keep these hours" })).toBeDisabled();
});

test("hours, days and days off are changed together and kept with one press", async () => {
  const asked = page({ [put]: told });
  await userEvent.click(await screen.findByRole("checkbox", { name: "Saturday" }));
  await userEvent.click(screen.getByRole("button", { name: "Work on 2026-12-25" }));
  await userEvent.type(screen.getByLabelText("Day off"), "2026-12-28");
  await userEvent.type(screen.getByLabelText("Its name"), "Boxing Day");
  await userEvent.click(screen.getByRole("button", { name: "Add the day" }));
  await userEvent.click(screen.getByRole("button", { name: "Keep these hours" }));
  await waitFor(() => expect(asked.some((a) => a.method === "PUT")).toBe(true));
  expect(asked.find((a) => a.method === "PUT")?.body).toEqual({
    ...hours,
    workDays: [1, 2, 3, 4, 5],
    holidays: [{ day: "2026-12-28", name: "Boxing Day" }],
  });
});

test("a refusal stands at its field, and what was typed stays", async () => {
  page({ [put]: { status: 400, body: { title: "No", errors: { mostADay: ["At most 50 a day; 0 means any number."] } } } });
  const most = await screen.findByLabelText("Automatic messages to a lead in a day");
  await userEvent.clear(most);
  await userEvent.type(most, "99");
  await userEvent.click(screen.getByRole("button", { name: "Keep these hours" }));
  expect(await screen.findByText("At most 50 a day; 0 means any number.")).toBeInTheDocument();
  expect(most).toHaveValue(99);
});

test("the law's hours are told with where they are written", async () => {
  page();
  await userEvent.click(await screen.findByRole("button", { name: "What no fuse goes beyond" }));
  expect(screen.getByText("décret n° 2022-1313")).toBeInTheDocument();
});
