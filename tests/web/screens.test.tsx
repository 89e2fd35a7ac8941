import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { createMemoryRouter, RouterProvider } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { SignInPage } from "@/features/accounts/SignInPage";
import { Story } from "@/features/leads/Story";
import { TextWriter } from "@/features/leads/TextWriter";
import { TodayPanel } from "@/features/watch/TodayPanel";
import { WatchRow } from "@/features/watch/WatchRow";
import { system } from "@/ui/theme";
import { nothingAround, show as showAsked } from "./show";

const at = (seconds: number) => new Date(Date.parse("2026-11-24T09:00:00Z") + seconds * 1000).toISOString();
const lead: Schemas["LeadRow"] = {
  id: "l1",
  clientId: "c1",
  name: "Ines Calloway",
  email: "ines@example.com",
  phone: "+447700900512",
  form: "Book a test ride",
  source: "Pagewright",
  test: false,
  asked: "25+, food",
  askedAt: at(0),
  targetAt: at(300),
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
const client = {
  id: "c1",
  key: "brackenwheel",
  name: "Brackenwheel Cargo Cycles",
  shortName: "Brackenwheel",
  zone: "Europe/London",
  currency: "GBP",
  targetSeconds: 300,
  role: "rep" as const,
};

function show(what: ReactNode) {
  const router = createMemoryRouter([{ path: "*", element: what }]);
  return render(
    <ChakraProvider value={system}>
      <QueryClientProvider client={new QueryClient()}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </ChakraProvider>,
  );
}

function answering(status: number, body: unknown) {
  const asked = vi.fn(
    async (_: Request) =>
      new Response(body === undefined ? null : JSON.stringify(body), { status, headers: { "content-type": "application/json" } }),
  );
  vi.stubGlobal("fetch", asked);
  return asked;
}
afterEach(() => vi.unstubAllGlobals());

describe("a row of the Watch", () => {
  const row = (over: Partial<Schemas["LeadRow"]>, now: number, acts: Schemas["Act"][] = ["touch-leads"]) => (
    <WatchRow
      lead={{ ...lead, ...over }}
      client={{ ...client, may: acts }}
      now={Date.parse(at(now))}
      me="Imke Sandoval"
      here={false}
      clientKey={undefined}
      showClient
    />
  );

  it("says how long they have waited and how long is left", () => {
    show(row({}, 96));
    expect(screen.getByText("1 m 36")).toBeInTheDocument();
    expect(screen.getByText("3 m 24 left")).toBeInTheDocument();
  });

  it("says when it is late, in words", () => {
    show(row({}, 552));
    expect(screen.getByText("4 m 12 late")).toBeInTheDocument();
    expect(screen.getByRole("img", { name: /past the target/ })).toBeInTheDocument();
  });

  it("lets one take it, and tells who was quicker", async () => {
    const asked = answering(409, {
      code: "already-taken",
      title: "Someone else has this lead.",
      detail: "Tobias Renn has Ines Calloway.",
      mend: "Talk to them.",
    });
    show(row({}, 20));
    await userEvent.click(screen.getByRole("button", { name: "Take Ines Calloway" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("Tobias Renn has Ines Calloway.");
    expect(asked.mock.calls[0]?.[0].url).toContain("/api/leads/l1/take");
  });

  it("shows who has it, and offers me what comes next", () => {
    show(row({ takenBy: "Tobias Renn", takenAt: at(10) }, 20));
    expect(screen.getByText("Tobias has it")).toBeInTheDocument();
    expect(screen.queryByRole("button")).not.toBeInTheDocument();
    show(row({ takenBy: "Imke Sandoval", takenAt: at(10) }, 20));
    expect(screen.getByRole("button", { name: "Spoke to them" })).toBeInTheDocument();
  });

  it("offers nothing to who may not", () => {
    show(row({}, 20, []));
    expect(screen.queryByRole("button")).not.toBeInTheDocument();
  });
});

describe("signing in", () => {
  it("tells what is wrong and keeps what was typed", async () => {
    answering(401, { code: "wrong-password", title: "That email and password do not fit together.", mend: "Check both." });
    show(<SignInPage />);
    await userEvent.type(screen.getByLabelText("Email"), "noor@quillonstreet.example");
    await userEvent.type(screen.getByLabelText("Password"), "wrong");
    await userEvent.click(screen.getByRole("button", { name: "Sign in" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("do not fit together");
    expect(screen.getByLabelText("Email")).toHaveValue("noor@quillonstreet.example");
  });

  it("puts the fault of a field beside it", async () => {
    answering(400, { code: "bad-input", title: "T", errors: { email: ["Write your email address."] } });
    show(<SignInPage />);
    await userEvent.click(screen.getByRole("button", { name: "Sign in" }));
    await waitFor(() => expect(screen.getByLabelText("Email")).toHaveAccessibleDescription("Write your email address."));
    expect(screen.getByLabelText("Email")).toBeInvalid();
  });
});

describe("the story", () => {
  const line = (over: Partial<Schemas["StoryLine"]>): Schemas["StoryLine"] => ({
    id: 1,
    kind: "submitted",
    at: at(0),
    knownAt: at(0),
    afterSeconds: 0,
    words: "Book a test ride",
    fuse: null,
    band: null,
    step: null,
    person: null,
    sent: null,
    answer: null,
    ...over,
  });
  it("tells what was sent in full, to whom, and what came back", () => {
    show(
      <Story
        zone="Europe/London"
        now={Date.parse(at(60))}
        lines={[
          line({}),
          line({
            id: 2,
            kind: "step-sent",
            afterSeconds: 0.2,
            step: "Text: someone is on it",
            words: "handed to Copperline",
            fuse: "F, v1",
            band: "Big fleets",
            sent: { kind: "text", to: "+447700900512", words: "Ines, thank you.", segments: null, attempts: 2, status: "done" },
          }),
          line({
            id: 3,
            kind: "step-done",
            afterSeconds: 0.9,
            step: "Text: someone is on it",
            words: "Copperline took it",
            fuse: "F, v1",
            band: "Big fleets",
            answer: '{"id":"text-1"}',
          }),
        ]}
      />,
    );
    expect(screen.getByText("Asked through “Book a test ride”")).toBeInTheDocument();
    expect(screen.getByText("+200 ms")).toBeInTheDocument();
    expect(screen.getByText("Ines, thank you.")).toBeInTheDocument();
    expect(screen.getByText(/to \+447700900512 · 2 attempts/)).toBeInTheDocument();
    expect(screen.getAllByText("F, v1 · Big fleets")).toHaveLength(1); // said once for lines that follow one another
    expect(screen.getByText('{"id":"text-1"}')).toBeInTheDocument();
  });
});

describe("writing a text", () => {
  const whole = {
    lead,
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
    submissions: [],
    story: [],
    burns: [],
    around: nothingAround,
  };
  const idle = { mutate: vi.fn(), isPending: false, isSuccess: false, error: null } as never;
  it("counts segments and cannot send nothing", async () => {
    // Counted where it is billed: the screen shows what that says.
    showAsked(<TextWriter whole={whole} box={{ current: null }} text={idle} />, {
      answers: { "POST /api/leads/text-size": { units: 9, segments: 1, unicode: true } },
    });
    expect(screen.getByRole("button", { name: "Send the text" })).toBeDisabled();
    await userEvent.type(screen.getByLabelText("Write a text"), "Hello 4–9");
    expect(await screen.findByText("9 · 1 segment")).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Send the text" })).toBeEnabled();
  });
  it("says before sending that it will wait, and why it cannot be", () => {
    show(
      <TextWriter
        whole={{ ...whole, textsOpenAt: at(3600), cannotTextBecause: "waits for send hours: Wednesday 08:00 in Europe/London" }}
        box={{ current: null }}
        text={idle}
      />,
    );
    expect(screen.getByText(/it waits for send hours: Wednesday 08:00/)).toBeInTheDocument();
    show(<TextWriter whole={{ ...whole, heldAt: at(-3600) }} box={{ current: null }} text={idle} />);
    expect(screen.getByText(/Everything is held for this client/)).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Send once let go on" })).toBeInTheDocument();
    show(
      <TextWriter whole={{ ...whole, canText: false, cannotTextBecause: "they opted out of texts" }} box={{ current: null }} text={idle} />,
    );
    expect(screen.getByText("Not possible: they opted out of texts.")).toBeInTheDocument();
  });
});

describe("today", () => {
  it("says what there is and what there is not yet", () => {
    const today = {
      leads: 23,
      usualByNow: 19,
      medianSpeedSeconds: 168,
      withinTarget: null,
      costPerLead: 3140,
      currency: "GBP",
      byHour: Array(24).fill(1),
      usualByHour: Array(24).fill(1),
      zone: "Europe/London",
      now: at(0),
    };
    show(<TodayPanel today={today} error={null} client="Brackenwheel" />);
    expect(screen.getByText("usual by now 19")).toBeInTheDocument();
    expect(screen.getByText("2 m 48")).toBeInTheDocument();
    expect(screen.getByText("none yet")).toBeInTheDocument();
    expect(screen.getByText("£31.40")).toBeInTheDocument();
  });
});
