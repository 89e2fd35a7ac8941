import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import { ThemeProvider } from "next-themes";
import type { ReactNode } from "react";
import { createMemoryRouter, RouterProvider } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Problem, type Schemas } from "@/api/client";
import { useGlobalKeys, usePageKeys } from "@/app/useKeys";
import { ClientStrip } from "@/features/frame/ClientStrip";
import { GoToDo } from "@/features/frame/GoToDo";
import { KeysOfPage } from "@/features/frame/KeysOfPage";
import { Rail } from "@/features/frame/Rail";
import { LeadTable } from "@/features/leads/LeadTable";
import { MapState } from "@/features/sources/MapTable";
import { BurnLine } from "@/ui/BurnLine";
import { ErrorTold } from "@/ui/Told";
import { system } from "@/ui/theme";

const at = (seconds: number) => new Date(Date.parse("2026-11-24T09:00:00Z") + seconds * 1000).toISOString();
const everything: Schemas["Act"][] = ["be-here", "see-watch", "see-leads", "touch-leads", "see-sources", "see-fuses", "edit-fuses"];
const client = (key: string, may = everything, zone = "Europe/London") => ({
  id: key,
  key,
  name: `${key} Ltd`,
  shortName: key,
  zone,
  currency: "GBP",
  targetSeconds: 300,
  role: "marketer" as const,
  may,
});
const noor = {
  id: "n",
  name: "Noor Abernathy-Voss",
  email: "noor@quillonstreet.example",
  takesCalls: true,
  now: at(0),
  clients: [client("brackenwheel"), client("hollin-vane", everything, "America/Toronto")],
};
const imke = {
  ...noor,
  name: "Imke Sandoval",
  clients: [{ ...client("brackenwheel", ["be-here", "see-watch", "see-leads", "touch-leads"]), role: "rep" as const }],
};
const counts: Schemas["FrameCounts"] = {
  clients: [
    { id: "brackenwheel", key: "brackenwheel", inTheAir: 5, late: 1, linesCut: 0, waiting: 0, heldAt: null, heldBy: null, heldBack: 0 },
    { id: "hollin-vane", key: "hollin-vane", inTheAir: 2, late: 0, linesCut: 1, waiting: 4, heldAt: null, heldBy: null, heldBack: 0 },
  ],
  leads: 5735,
  forms: 10,
  fuses: 4,
  held: 0,
  conflicts: 0,
  stuck: 0,
  tray: 0,
  now: at(0),
};

function show(what: ReactNode, address = "/") {
  const router = createMemoryRouter([{ path: "*", element: what }], { initialEntries: [address] });
  render(
    <ChakraProvider value={system}>
      <ThemeProvider attribute="class">
        <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
          <RouterProvider router={router} />
        </QueryClientProvider>
      </ThemeProvider>
    </ChakraProvider>,
  );
  return router;
}
afterEach(() => vi.unstubAllGlobals());

describe("the strip of clients", () => {
  it("counts who is in the air and who is late, for each and for all", () => {
    show(<ClientStrip person={noor} chosen={undefined} counts={counts.clients} onGo={vi.fn()} />);
    const strip = screen.getByRole("navigation", { name: "Clients" });
    expect(within(strip).getByRole("link", { name: /brackenwheel/ })).toHaveTextContent("5 in the air · 1 late");
    expect(within(strip).getByRole("link", { name: /hollin-vane/ })).not.toHaveTextContent("late");
    expect(within(strip).getByRole("link", { name: /All clients/ })).toHaveTextContent("7 in the air · 1 late");
  });

  it("narrows by a press, widens by another, and leads from a lead to its list", async () => {
    const router = show(
      <ClientStrip person={noor} chosen="brackenwheel" counts={counts.clients} onGo={vi.fn()} />,
      "/leads/l1?client=brackenwheel",
    );
    fireEvent.click(screen.getByRole("link", { name: /hollin-vane/ }));
    await waitFor(() => expect(router.state.location.pathname + router.state.location.search).toBe("/leads?client=hollin-vane"));
    fireEvent.click(screen.getByRole("link", { name: /brackenwheel/ })); // shown as chosen: widens
    await waitFor(() => expect(router.state.location.search).toBe(""));
  });

  it("shows who has but one client no choice", () => {
    show(<ClientStrip person={imke} chosen="brackenwheel" counts={counts.clients} onGo={vi.fn()} />);
    expect(screen.queryByText("All clients")).not.toBeInTheDocument();
  });
});

describe("the rail", () => {
  const links = () =>
    within(screen.getByRole("navigation", { name: "Sections" }))
      .getAllByRole("link")
      .map((l) => l.textContent);
  it("has the sections one may see, as words with counts", () => {
    show(<Rail person={noor} chosen={undefined} counts={counts} live="live" onKeys={vi.fn()} />);
    expect(links()).toEqual(["Watch7", "Leads5 735", "Sources10", "Fuses4", "Deliveries", "Notices"]);
    expect(screen.getByText("◆ live")).toBeInTheDocument();
  });
  it("has three for a rep, and says when the line is lost", () => {
    show(<Rail person={imke} chosen="brackenwheel" counts={counts} live="lost" onKeys={vi.fn()} />);
    expect(links()).toEqual(["Watch5", "Leads5 735", "Notices"]);
    expect(screen.getByText("◇ line lost")).toBeInTheDocument();
    expect(screen.getByText("rep")).toBeInTheDocument();
  });
});

describe("go to / do", () => {
  const answers: Record<string, unknown> = {
    "/api/forms": { forms: [{ id: "form1", name: "Book a test ride", client: "brackenwheel", source: "Pagewright" }] },
    "/api/fuses": { fuses: [{ id: "fuse1", name: "Test ride: tell the desk", client: "brackenwheel" }] },
    "/api/leads": {
      items: [{ id: "lead1", name: "Ines Calloway", form: "Book a test ride", email: "ines@example.com" }],
      total: 1,
      page: 1,
      pageSize: 100,
    },
  };
  const stub = () =>
    vi.stubGlobal(
      "fetch",
      async (r: Request) =>
        new Response(JSON.stringify(answers[new URL(r.url).pathname]), { headers: { "content-type": "application/json" } }),
    );

  it("finds pages, fuses, forms and leads, and goes there by keyboard", async () => {
    stub();
    const closed = vi.fn();
    const router = show(<GoToDo person={noor} chosen="brackenwheel" onClose={closed} />);
    const box = screen.getByRole("combobox");
    fireEvent.change(box, { target: { value: "ride" } });
    expect(await screen.findByRole("option", { name: /Test ride: tell the desk/ })).toBeInTheDocument();
    expect(await screen.findByRole("option", { name: /Ines Calloway/ })).toBeInTheDocument();
    const first = screen.getAllByRole("option")[0] as HTMLElement;
    expect(first).toHaveAttribute("aria-selected", "true");
    fireEvent.keyDown(box, { key: "ArrowDown" });
    expect(first).toHaveAttribute("aria-selected", "false");
    fireEvent.keyDown(box, { key: "ArrowUp" });
    fireEvent.keyDown(box, { key: "Enter" });
    expect(closed).toHaveBeenCalled();
    await waitFor(() => expect(router.state.location.search).toBe("?client=brackenwheel"));
  });

  it("does what it says, and says when there is nothing", async () => {
    stub();
    show(<GoToDo person={imke} chosen="brackenwheel" onClose={vi.fn()} />);
    expect(screen.getByRole("option", { name: /Sign out/ })).toBeInTheDocument();
    expect(screen.queryByRole("option", { name: /Fuses/ })).not.toBeInTheDocument(); // not for a rep
    answers["/api/leads"] = { items: [], total: 0, page: 1, pageSize: 100 };
    fireEvent.change(screen.getByRole("combobox"), { target: { value: "zzzz" } });
    expect(await screen.findByText("Nothing here by “zzzz”.")).toBeInTheDocument();
  });
});

describe("keys", () => {
  function Keys({ go, j }: { go: () => void; j: () => void }) {
    useGlobalKeys({ go, keys: vi.fn() });
    usePageKeys({ j });
    return <input aria-label="words" />;
  }
  it("are silent while one writes, but for Ctrl K", () => {
    const [go, j] = [vi.fn(), vi.fn()];
    show(<Keys go={go} j={j} />);
    fireEvent.keyDown(screen.getByLabelText("words"), { key: "j" });
    expect(j).not.toHaveBeenCalled();
    fireEvent.keyDown(window, { key: "j" });
    fireEvent.keyDown(window, { key: "j", ctrlKey: true });
    expect(j).toHaveBeenCalledTimes(1);
    fireEvent.keyDown(screen.getByLabelText("words"), { key: "k", ctrlKey: true });
    expect(go).toHaveBeenCalledTimes(1);
  });
  it("are told for the page one is on", () => {
    show(<KeysOfPage path="/fuses/f1" onClose={vi.fn()} />);
    expect(screen.getByText("Save the draft")).toBeInTheDocument();
    expect(screen.queryByText("Take it")).not.toBeInTheDocument();
  });
});

describe("the table of leads", () => {
  const row = (over: Partial<Schemas["LeadRow"]>): Schemas["LeadRow"] => ({
    id: "l",
    clientId: "brackenwheel",
    name: "Ines Calloway",
    email: null,
    phone: null,
    form: "F",
    source: "Plaza",
    test: false,
    asked: "25+",
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
    ...over,
  });
  it("tells each one's speed, on one clock that is named", () => {
    show(
      <LeadTable
        person={noor}
        columns={["what", "through", "asked", "speed", "who"]}
        picked={undefined}
        onPick={vi.fn()}
        onPickAll={vi.fn()}
        at={0}
        clientKey={undefined}
        showClient
        rows={[
          row({ id: "a", firstTouchAt: at(41), firstTouchBy: "Imke Sandoval" }),
          row({ id: "b", clientId: "hollin-vane", firstTouchAt: at(552) }),
          row({ id: "c" }),
        ]}
      />,
    );
    expect(screen.getByRole("columnheader", { name: "asked, in London" })).toBeInTheDocument();
    const cells = screen
      .getAllByRole("row")
      .slice(1)
      .map((r) =>
        within(r)
          .getAllByRole("cell")
          .map((c) => c.textContent),
      );
    expect(cells[0]?.[4]).toBe("41 s");
    expect(cells[1]?.[4]).toBe("9 m 12 late");
    expect(cells[1]?.[2]).toBe("hollin-vane · Plaza");
    expect(cells[2]?.[4]).toMatch(/^(late|in the air), /);
    expect(cells[0]?.[5]).toBe("Imke Sandoval");
  });
});

describe("small pieces", () => {
  it("say a problem with what happened and what to do, and offer to try again", () => {
    const again = vi.fn();
    show(<ErrorTold error={Problem.from(503, { title: "The database cannot be reached.", mend: "Start PostgreSQL." })} again={again} />);
    expect(screen.getByRole("alert")).toHaveTextContent("The database cannot be reached.Start PostgreSQL.");
    fireEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect(again).toHaveBeenCalled();
  });
  it("say that a server does not answer", () => {
    show(<ErrorTold error={new TypeError("fetch failed")} />);
    expect(screen.getByRole("alert")).toHaveTextContent("Lit Fuse did not answer.");
  });
  it.each([
    ["confirmed", "confirmed"],
    ["suggested", "not confirmed"],
    [null, "not confirmed"],
  ] as const)("call a map that is %s “%s”", (map, words) => {
    show(<MapState map={map} />);
    expect(screen.getByText(words)).toBeInTheDocument();
  });
  it("label each kind of tick once, and none upon another", () => {
    show(
      <BurnLine
        askedAt={at(0)}
        targetAt={at(300)}
        now={Date.parse(at(100))}
        ticks={[
          { at: at(0.1), kind: "team" },
          { at: at(0.2), kind: "team" },
          { at: at(0.3), kind: "text" },
          { at: at(0.4), kind: "delivered" },
          { at: at(30), kind: "taken" },
        ]}
      />,
    );
    expect(screen.getAllByText("team")).toHaveLength(1);
    expect(screen.getByText("text")).toBeInTheDocument();
    expect(screen.getByText("taken")).toBeInTheDocument();
  });
});
