import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { fireEvent, render, screen, waitFor } from "@testing-library/react";
import { createMemoryRouter, RouterProvider } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { SignedIn } from "@/app/useSession";
import { LeadPage } from "@/features/leads/LeadPage";
import { system } from "@/ui/theme";
import { nothingAround } from "./show";

const ago = (seconds: number) => new Date(Date.now() - seconds * 1000).toISOString();
const me = {
  id: "i",
  name: "Imke Sandoval",
  email: "imke@brackenwheel.example",
  takesCalls: true,
  now: ago(0),
  clients: [
    {
      id: "c",
      key: "brackenwheel",
      name: "Brackenwheel Cargo Cycles",
      shortName: "Brackenwheel",
      zone: "Europe/London",
      currency: "GBP",
      targetSeconds: 300,
      role: "rep" as const,
      may: ["touch-leads", "see-leads"] as Schemas["Act"][],
    },
  ],
};
const lead = (over: Partial<Schemas["LeadRow"]> = {}): Schemas["LeadRow"] => ({
  id: "l",
  clientId: "c",
  name: "Ines Calloway",
  email: "ines@example.com",
  phone: "+441134960042",
  form: "Book a test ride",
  source: "Pagewright",
  test: false,
  asked: "25+",
  askedAt: ago(60),
  targetAt: ago(-240),
  takenBy: null,
  takenAt: null,
  firstTouchAt: null,
  firstTouchBy: null,
  ticks: [],
  owner: null,
  tags: [],
  doNotContact: false,
  fields: {},
  ...over,
});
const burn = { held: null, stop: null, setAside: null, hears: true, armed: true, steps: [], silences: [] };
const waits: Schemas["LeadBurnStep"] = {
  stepId: "t",
  step: "Text: someone is on it",
  band: "Always",
  lane: "lead",
  status: "waiting",
  dueAt: ago(-3600),
  reason: null,
};
const whole = (over: Partial<Schemas["LeadDetail"]> = {}): Schemas["LeadDetail"] => ({
  lead: lead(),
  clientKey: "brackenwheel",
  zone: "Europe/London",
  zoneBecause: "by their number's country",
  stage: "New",
  stages: ["New", "Won"],
  canText: true,
  cannotTextBecause: null,
  textsOpenAt: null,
  heldAt: null,
  optedOutAt: null,
  emailBouncedAt: null,
  emailBouncedBecause: null,
  submissions: [
    {
      id: "s",
      form: "Book a test ride",
      receivedAt: ago(60),
      askedAt: "2026-11-25T09:41:07Z",
      test: false,
      formId: "f",
      junk: 0,
      via: "door",
      page: null,
      tracking: [],
      answers: [
        { question: "How many bikes would your fleet need?", answer: "25+" },
        { question: "Depot postcode", answer: "" },
      ],
    },
  ],
  story: [],
  burns: [],
  around: nothingAround,
  ...over,
});

function open(answer: Schemas["LeadDetail"] | { status: number; body: unknown }) {
  const asked: string[] = [];
  vi.stubGlobal("fetch", async (r: Request) => {
    asked.push(`${r.method} ${new URL(r.url).pathname}`);
    if (r.method !== "GET") return new Response(null, { status: 204 });
    if (r.url.includes("/choices"))
      return Response.json({ owners: [], tags: [], forms: [], sources: [], views: [], stages: [], fuses: [] });
    return "status" in answer
      ? new Response(JSON.stringify(answer.body), { status: answer.status })
      : new Response(JSON.stringify(answer), { headers: { "content-type": "application/json" } });
  });
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const router = createMemoryRouter([{ path: "/leads/:leadId", Component: LeadPage }], { initialEntries: ["/leads/l"] });
  render(
    <ChakraProvider value={system}>
      <QueryClientProvider client={queries}>
        <SignedIn value={me}>
          <RouterProvider router={router} />
        </SignedIn>
      </QueryClientProvider>
    </ChakraProvider>,
  );
  return asked;
}
afterEach(() => vi.unstubAllGlobals());

describe("a lead's page", () => {
  it.each([
    ["a press", () => fireEvent.click(screen.getByRole("button", { name: "Take it" }))],
    ["a key", () => fireEvent.keyDown(window, { key: "t" })],
  ])("says first that nobody has it, and takes it by %s", async (_, take) => {
    const asked = open(whole());
    expect(await screen.findByText("Nobody has it.")).toBeInTheDocument();
    take();
    await waitFor(() => expect(asked.filter((a) => a === "POST /api/leads/l/take")).toHaveLength(1));
  });

  it("says who has it, and lets whoever has it write, speak or give it back", async () => {
    const asked = open(whole({ lead: lead({ takenBy: "Imke Sandoval", takenAt: ago(10) }) }));
    expect(await screen.findByText("You have it.")).toBeInTheDocument();
    fireEvent.click(screen.getByRole("button", { name: "Write a text" }));
    expect(screen.getByLabelText("Write a text")).toHaveFocus();
    fireEvent.click(screen.getByRole("button", { name: "Spoke to them" }));
    fireEvent.click(screen.getByRole("button", { name: "Give it back" }));
    await waitFor(() => expect(asked).toEqual(expect.arrayContaining(["POST /api/leads/l/touch", "POST /api/leads/l/release"])));
  });

  it("tells how quickly somebody reached out", async () => {
    open(whole({ lead: lead({ firstTouchAt: ago(19), firstTouchBy: "Tobias Renn" }) }));
    expect(await screen.findByText("Tobias Renn")).toBeInTheDocument();
    expect(screen.getByText(/after they asked, within the target/)).toBeInTheDocument();
    expect(screen.queryByRole("button", { name: "Take it" })).not.toBeInTheDocument();
  });

  it("shows the answers given in the form's words, and none that were left empty", async () => {
    open(whole());
    expect(await screen.findByText("How many bikes would your fleet need?")).toBeInTheDocument();
    expect(screen.queryByText("Depot postcode")).not.toBeInTheDocument();
    expect(screen.getByRole("link", { name: "+441134960042" })).toHaveAttribute("href", "tel:+441134960042");
  });

  it("says what is still to come, when, and why it waits", async () => {
    open(
      whole({
        burns: [
          {
            id: "b",
            fuseId: "f",
            fuse: "Test ride, v1",
            status: "burning",
            litAt: ago(60),
            ...burn,
            steps: [
              { ...waits, reason: "waits for send hours" },
              { ...waits, stepId: "p", step: "Post", status: "failed", reason: "answered 500" },
              { ...waits, stepId: "x", step: "Chaser", status: "cancelled", reason: "Imke reached out" },
            ],
            silences: [{ band: "Reminder", until: ago(-7200) }],
          },
        ],
      }),
    );
    expect(await screen.findByText("Burning")).toBeInTheDocument();
    expect(screen.getByText("to them · waits for send hours")).toBeInTheDocument();
    expect(screen.getByText("unless they write back before")).toBeInTheDocument();
    expect(screen.getByText("Chaser")).toHaveStyle({ textDecoration: "line-through" });
  });

  it("lets a step be left out or done again, a burn be stopped, let go and lit again", async () => {
    const steps = [waits, { ...waits, stepId: "p", step: "Post", status: "failed" as const }];
    const asked = open(
      whole({
        burns: [{ id: "b", fuseId: "f", fuse: "Test ride, v1", status: "burning", litAt: ago(60), ...burn, held: "check it", steps }],
      }),
    );
    fireEvent.click(await screen.findByRole("button", { name: "Leave out Text: someone is on it" }));
    await waitFor(() => expect(asked).toContain("POST /api/burns/b/skip"));
    fireEvent.click(screen.getByRole("button", { name: "Do it again" }));
    await waitFor(() => expect(asked).toContain("POST /api/burns/b/replay"));
    fireEvent.click(screen.getByRole("button", { name: "Let it go on" }));
    await waitFor(() => expect(asked).toContain("POST /api/burns/b/let-go"));
    fireEvent.click(screen.getByRole("button", { name: "Stop" }));
    await waitFor(() => expect(asked).toContain("POST /api/burns/b/stop"));
  });

  it("offers to light again what has ended", async () => {
    const asked = open(
      whole({ burns: [{ id: "b", fuseId: "f", fuse: "Test ride, v1", status: "ended", litAt: ago(60), ...burn, hears: false }] }),
    );
    fireEvent.click(await screen.findByRole("button", { name: "Light “Test ride” again" }));
    await waitFor(() => expect(asked).toContain("POST /api/fuses/f/light"));
  });

  it("asks before it marks that they want no texts, and shows it when it is so", async () => {
    const asked = open(whole());
    const confirm = vi.fn(() => false);
    vi.stubGlobal("confirm", confirm);
    fireEvent.click(await screen.findByRole("button", { name: "They want no texts" }));
    expect(confirm).toHaveBeenCalledTimes(1);
    confirm.mockReturnValue(true);
    fireEvent.click(screen.getByRole("button", { name: "They want no texts" }));
    await waitFor(() => expect(asked).toContain("POST /api/leads/l/opt-out"));
    // What was refused at first would have been asked before.
    expect(asked.filter((a) => a === "POST /api/leads/l/opt-out")).toHaveLength(1);
  });

  it("says when there is no such lead", async () => {
    open({
      status: 404,
      body: { code: "not-there", title: "There is nothing here by that name, or it is not yours to see.", mend: "Check the address." },
    });
    expect(await screen.findByRole("alert")).toHaveTextContent("not yours to see");
  });
});
