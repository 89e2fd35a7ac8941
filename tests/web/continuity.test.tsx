import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { ComparePart } from "@/features/continuity/ComparePart";
import { DelaysPart } from "@/features/continuity/DelaysPart";
import { JointLine, MiniLine } from "@/features/continuity/JointLine";
import { LinePart } from "@/features/continuity/LinePart";
import { countLines, LinesOf } from "@/features/continuity/LinesOf";
import { mendPath, sayLine } from "@/features/continuity/lineWords";
import { ProvePart } from "@/features/continuity/ProvePart";
import { proofPlaces } from "@/features/continuity/proofPlaces";
import { useAt } from "@/features/continuity/useAt";
import { LinesDown } from "@/features/watch/LinesDown";
import { aLine } from "./lines";
import { show } from "./show";

const now = Date.parse("2026-11-25T09:41:07Z");
const mend = (place: Schemas["MendPlace"], more: Partial<Schemas["Mend"]> = {}): Schemas["Mend"] => ({
  words: "Mend it",
  place,
  id: "x1",
  step: null,
  part: null,
  ...more,
});
const cut = (joint: Schemas["JointKind"], cause: string, at: Schemas["Mend"] = mend("form")): Schemas["CutRow"] => ({
  joint,
  cause,
  mend: at,
  since: "2026-11-25T09:31:07Z",
});
const paused = cut("service", "Ridgeboard is paused: what is to go through it waits.", mend("connection", { words: "Resume Ridgeboard" }));

test.each([
  [mend("source"), "/sources/from/x1"],
  [mend("form"), "/sources/x1"],
  [mend("form", { part: "drift" }), "/sources/x1?at=drift"],
  [mend("map"), "/sources/x1/map"],
  [mend("fuse"), "/fuses/x1"],
  [mend("fuse", { step: "s2" }), "/fuses/x1?step=s2"],
  [mend("fuse", { part: "b1" }), "/fuses/x1?band=b1"],
  [mend("new-fuse"), "/fuses/new?form=x1"],
  [mend("connection"), "/setup?at=connection-x1"],
  [mend("new-connection", { id: "gridlet" }), "/setup?at=connect&connect=gridlet"],
  [mend("hours"), "/setup?at=hours"],
  [mend("held"), "/fuses"],
])("a mend opens the very place: %o → %s", (at, path) => expect(mendPath(at)).toBe(path));

describe("a line", () => {
  test("is said in a sentence for who cannot see it", () => {
    expect(sayLine(aLine())).toMatch(/^The line is whole: Plaza, permissions, form/);
    expect(sayLine(aLine({ cuts: [paused] }))).toBe("The line is cut: Ridgeboard is paused: what is to go through it waits.");
    const joints = aLine().joints.map((j) => (j.kind === "proof" ? { ...j, state: "unproven" as const, words: "No lead yet." } : j));
    expect(sayLine(aLine({ state: "unproven", joints }))).toBe("Nothing is cut, and nothing has proved it: No lead yet.");
    show(<MiniLine line={aLine({ cuts: [paused] })} />);
    expect(screen.getByRole("img", { name: /^The line is cut: Ridgeboard is paused/ })).toBeInTheDocument();
  });

  test("shows every joint with its name, and says of each what is known when it is pressed", async () => {
    show(<JointLine line={aLine({ cuts: [paused] })} />);
    const line = screen.getByRole("list", { name: /^The line is cut/ });
    expect(within(line).getAllByRole("listitem")).toHaveLength(9);
    expect(within(line).getByRole("button", { name: /Ridgeboard/ })).toHaveTextContent("cut");
    await userEvent.click(within(line).getByRole("button", { name: "map" }));
    expect(screen.getByText("Version 3 is confirmed.")).toBeInTheDocument();
  });
});

describe("the line of a form", () => {
  const whole = (over: Partial<Schemas["LineDetail"]> = {}): Schemas["LineDetail"] => ({
    line: aLine({
      cuts: [cut("form", "Its ad is stopped at Plaza: nobody is shown it.", mend("source", { words: "Start the ad" })), paused],
    }),
    habit: "This form usually has a lead every 40 min at these hours.",
    drift: [
      {
        key: "renamed.phone.mobile",
        kind: "renamed",
        field: "phone",
        leadField: "phone",
        words: "“phone” does not come any more; “mobile” comes in its place.",
        mend: "Map “mobile” to phone instead",
        after: 2,
        newField: "mobile",
        suggested: null,
        values: null,
        lost: true,
      },
    ],
    past: [
      {
        joint: "map",
        cause: "Nobody had confirmed the map.",
        from: "2026-11-24T09:00:00Z",
        to: "2026-11-24T10:30:00Z",
        came: 3,
        leads: [{ id: "l4", name: "Ines Calloway" }],
      },
      { joint: "service", cause: "Ridgeboard is paused.", from: "2026-11-25T09:31:07Z", to: null, came: 0, leads: [] },
    ],
    ...over,
  });
  const proofs: Schemas["ProofList"] = {
    fromNetwork: true,
    network: "Plaza",
    afterMend: false,
    dailyAt: null,
    for: null,
    nextAt: null,
    runs: [],
  };
  const part = <LinePart formId="f1" may zone="Europe/London" now={now} clientKey={undefined} />;

  test("names each cut with its mend, and what was cut before with whom it touched", async () => {
    const asked = show(part, {
      answers: {
        "GET /api/forms/f1/line": whole(),
        "GET /api/forms/f1/proofs": proofs,
        "POST /api/forms/f1/line/look": whole(),
        "PUT /api/forms/f1/line/rest": null,
      },
    });
    const cuts = await screen.findByRole("list", { name: "Cuts" });
    expect(within(cuts).getAllByRole("listitem")).toHaveLength(2);
    expect(within(cuts).getByRole("link", { name: "Start the ad" })).toHaveAttribute("href", "/sources/from/x1");
    expect(within(cuts).getByText("for 10 m 00", { selector: "li:first-child span" })).toBeInTheDocument();
    expect(screen.getByText("One cut before", { exact: false })).toHaveTextContent("1 h 30 in all");
    expect(screen.getByText(/3 submissions came meanwhile/)).toBeInTheDocument();
    expect(screen.getByRole("link", { name: "Ines Calloway", hidden: true })).toHaveAttribute("href", "/leads/l4");
    expect(screen.getByText("This form usually has a lead every 40 min at these hours.")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Look again" }));
    await userEvent.click(screen.getByRole("button", { name: "It is meant to rest" }));
    expect(asked.find((a) => a.method === "PUT")?.body).toEqual({ rests: true });
    expect(asked.some((a) => a.path.endsWith("/line/look"))).toBe(true);
  });

  test("mends what changed with one press, or takes it as it is", async () => {
    const asked = show(part, {
      answers: {
        "GET /api/forms/f1/line": whole(),
        "GET /api/forms/f1/proofs": proofs,
        "POST /api/forms/f1/drift": { mapVersion: 4, released: 2 },
      },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Map “mobile” to phone instead: phone" }));
    expect(await screen.findByText("Version 4 of the map is confirmed. 2 that waited go on.")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "It is right as it is" }));
    expect(asked.filter((a) => a.path.endsWith("/drift")).map((a) => a.body)).toEqual([
      { key: "renamed.phone.mobile", accept: false },
      { key: "renamed.phone.mobile", accept: true },
    ]);
  });

  test("offers nothing to press to who may only look, and is not there before it was judged", async () => {
    show(<LinePart formId="f1" may={false} zone="Europe/London" now={now} clientKey={undefined} />, {
      answers: { "GET /api/forms/f1/line": whole(), "GET /api/forms/f1/proofs": proofs },
    });
    expect(await screen.findByText("Its ad is stopped at Plaza: nobody is shown it.", { exact: false })).toBeInTheDocument();
    expect(screen.queryByRole("button", { name: "Look again" })).toBeNull();
    expect(screen.queryByRole("link", { name: "Start the ad" })).toBeNull();
  });
});

describe("proving", () => {
  const joint = (name: string, state: Schemas["ProofAt"], seconds: number | null, whose = "us"): Schemas["ProofJoint"] => ({
    name,
    state,
    at: seconds === null ? null : "2026-11-25T09:41:07Z",
    seconds,
    words: `${name}: so`,
    whose,
  });
  const run = (over: Partial<Schemas["ProofTold"]> = {}): Schemas["ProofTold"] => ({
    id: "r1",
    formId: "f1",
    from: "network",
    onlyMe: false,
    state: "proved",
    because: null,
    beganAt: "2026-11-25T09:40:00Z",
    endedAt: "2026-11-25T09:40:05Z",
    by: "Noor Abernathy-Voss",
    leadId: "l9",
    joints: [
      joint("sent", "done", 0, "network"),
      joint("Plaza", "done", 4, "network"),
      joint("on disk", "done", 4.1),
      joint("Ridgeboard", "done", 4.3, "Ridgeboard"),
      joint("Copperline", "left-out", null, "Copperline"),
    ],
    networkSeconds: 4,
    ourSeconds: 0.3,
    ...over,
  });
  const list = (over: Partial<Schemas["ProofList"]> = {}): Schemas["ProofList"] => ({
    fromNetwork: true,
    network: "Plaza",
    afterMend: false,
    dailyAt: null,
    for: null,
    nextAt: null,
    runs: [run()],
    ...over,
  });
  const part = <ProvePart formId="f1" may zone="Europe/London" now={now} />;

  test("shows joint by joint where the time went", async () => {
    show(part, { answers: { "GET /api/forms/f1/proofs": list() } });
    expect(await screen.findByText("proved")).toBeInTheDocument();
    expect(screen.getByText("4.0 s", { selector: "b" })).toBeInTheDocument();
    expect(screen.getByText("300 ms")).toBeInTheDocument();
    expect(screen.getByRole("link", { name: "the test lead" })).toHaveAttribute("href", "/leads/l9");
    expect(screen.getAllByRole("img", { name: "done" })).toHaveLength(4);
    expect(screen.getByText("Copperline: so")).toBeInTheDocument();
  });

  test("a press sends one from the network, or from here to one's own addresses", async () => {
    const asked = show(part, {
      answers: { "GET /api/forms/f1/proofs": list({ runs: [] }), "POST /api/forms/f1/proofs": run({ state: "running" }) },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Prove it from Plaza" }));
    await userEvent.selectOptions(screen.getByLabelText("Where it goes"), "to my own addresses only");
    await userEvent.click(screen.getByRole("button", { name: "From here" }));
    expect(asked.filter((a) => a.method === "POST").map((a) => a.body)).toEqual([
      { from: "network", onlyMe: false },
      { from: "here", onlyMe: true },
    ]);
  });

  test("says where it came to a halt, and lets it be tried again", async () => {
    show(part, {
      answers: {
        "GET /api/forms/f1/proofs": list({
          fromNetwork: false,
          runs: [run({ state: "halted", because: "At Ridgeboard: it answered 500", onlyMe: true, by: null, leadId: null })],
        }),
      },
    });
    expect(await screen.findByText("At Ridgeboard: it answered 500")).toBeInTheDocument();
    expect(screen.getByText(/by itself, to own addresses only/)).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Prove it" })).toBeEnabled();
  });

  test("by itself: a sentence that can be changed", async () => {
    const asked = show(part, {
      answers: {
        "GET /api/forms/f1/proofs": list({ afterMend: true, for: "Noor Abernathy-Voss" }),
        "PUT /api/forms/f1/proofs/plan": {
          status: 409,
          body: { title: "That cannot be done as things stand.", detail: "Say first where your own tests go." },
        },
      },
    });
    await userEvent.selectOptions(await screen.findByLabelText("Every day"), "every day at");
    await userEvent.click(screen.getByRole("button", { name: "Keep this" }));
    expect(asked.find((a) => a.method === "PUT")?.body).toEqual({ afterMend: true, dailyAt: "07:30" });
    expect(await screen.findByText("Say first where your own tests go.")).toBeInTheDocument();
  });

  test("things that go at once begin at the same moment", () => {
    const places = proofPlaces([
      joint("sent", "done", 0, "network"),
      joint("Plaza", "done", 2, "network"),
      joint("fuse", "done", 3),
      joint("Ridgeboard", "done", 4, "Ridgeboard"),
      joint("Copperline", "done", 3.5, "Copperline"),
      joint("Pillarpost", "waiting", null, "Pillarpost"),
    ]);
    expect(places.map((p) => p && [p.from, p.to])).toEqual([[0, 0], [0, 0.5], [0.5, 0.75], [0.75, 1], [0.75, 0.875], null]);
  });
});

describe("where lines pass", () => {
  test("a fuse counts its lines, with the first cut", async () => {
    const lines = [aLine({ cuts: [paused] }), aLine({ formId: "f2", form: "Fleet enquiry" })];
    expect(countLines(lines)).toBe("2 lines: 1 cut, 1 whole");
    show(<LinesOf fuse="u1" clientId="c1" />, { answers: { "GET /api/lines": { lines, now: "2026-11-25T09:41:07Z" } } });
    expect(await screen.findByText("2 lines: 1 cut, 1 whole", { exact: false })).toHaveTextContent("Ridgeboard is paused");
    expect(screen.getByRole("link", { name: "Fleet enquiry" })).toHaveAttribute("href", "/sources/f2");
    expect(screen.getByRole("link", { name: "Resume Ridgeboard" })).toHaveAttribute("href", "/setup?at=connection-x1");
  });

  test("what cuts many lines at once stands on the Watch once", () => {
    const watch = {
      inTheAir: [],
      total: 0,
      held: 0,
      conflicts: 0,
      tray: 0,
      setAside: [],
      accesses: [],
      now: "2026-11-25T09:41:07Z",
      linesMended: [],
      linesDown: [aLine({ cuts: [paused] }), aLine({ formId: "f2", form: "Fleet enquiry", cuts: [paused, cut("hours", "Held.")] })],
    } as Schemas["WatchPage"];
    show(<LinesDown watch={watch} clientKey={undefined} showClient={false} />);
    expect(screen.getAllByText(/Ridgeboard is paused/, { selector: "div" }).length).toBeGreaterThan(0);
    expect(screen.getAllByRole("link", { name: "Resume Ridgeboard" })).toHaveLength(1);
    expect(screen.getByText("The same cuts Fleet enquiry.")).toBeInTheDocument();
  });

  test("burns that are set aside stand on the Watch, with why and a way to them", () => {
    const watch = {
      held: 0,
      conflicts: 0,
      tray: 0,
      accesses: [],
      linesDown: [],
      linesMended: [],
      setAside: [
        {
          fuseId: "f7",
          fuse: "Test ride",
          clientId: "c1",
          client: "Brackenwheel",
          burns: 2,
          because: "deciding for it failed: no such step",
          since: "2026-11-25T09:40:07Z",
        },
      ],
    };
    show(<LinesDown watch={watch as unknown as Schemas["WatchPage"]} clientKey="brackenwheel" showClient />);
    expect(screen.getByRole("link", { name: "2 burns of Test ride" })).toHaveAttribute(
      "href",
      expect.stringContaining("/fuses/burns?fuse=f7&state=set-aside"),
    );
    expect(screen.getByRole("group", { name: "Burns of Test ride set aside" })).toHaveTextContent("no such step");
  });

  test("what was mended is one press away from being proved, until a test is on its way", () => {
    const mended = (n: number, proving = false): Schemas["MendedRow"] => ({
      formId: `f${n}`,
      form: `Fair ${n}`,
      clientId: "c1",
      client: "Brackenwheel",
      mendedAt: "2026-11-25T09:40:00Z",
      proving,
    });
    const watch = {
      held: 0,
      conflicts: 0,
      tray: 0,
      setAside: [],
      accesses: [],
      linesDown: [],
      linesMended: [mended(1), mended(2, true), { ...mended(3), clientId: "c9" }],
    };
    show(<LinesDown watch={watch as unknown as Schemas["WatchPage"]} clientKey={undefined} showClient={false} />);
    expect(screen.getByRole("link", { name: "Prove Fair 1" })).toHaveAttribute("href", "/sources/f1?at=prove");
    expect(screen.queryByRole("link", { name: "Prove Fair 2" })).toBeNull();
    expect(screen.getByRole("group", { name: "Mended, to be proved" })).toHaveTextContent("a test is on its way");
    // Who may not send tests is not told.
    expect(screen.queryByText("Fair 3")).toBeNull();
  });

  test("the part of a page that an address names is brought into view", () => {
    const into = vi.fn();
    window.HTMLElement.prototype.scrollIntoView = into;
    function Page() {
      useAt(true);
      return <div id="connection-k1">Ridgeboard</div>;
    }
    show(<Page />, { at: "/setup?at=connection-k1" });
    expect(into).toHaveBeenCalled();
    expect(screen.getByText("Ridgeboard")).toHaveFocus();
  });
});

describe("a source beside what is here", () => {
  const forms = [{ id: "f1", name: "Test ride" }];

  test("counts day by day, and fetches what is missing", async () => {
    const days = [{ formId: "f1", day: "2026-11-24", theirs: 20, ours: 19, recovered: 4 }];
    const asked = show(<ComparePart sourceId="s1" source="Plaza" forms={forms} may now={now} />, {
      answers: {
        "GET /api/sources/s1/compared": { can: true, at: "2026-11-25T09:40:07Z", dueAt: null, fault: "Plaza answered 500", days },
        "POST /api/sources/s1/compare": { theirs: 20, recovered: 1, missing: 1 },
      },
    });
    expect(await screen.findByText("Tue 24 Nov")).toBeInTheDocument();
    expect(screen.getByText("The list could not be had: Plaza answered 500")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Compare now" }));
    expect(await screen.findByText("20 on its list; 1 that nobody told us of is fetched; 1 could not be fetched.")).toBeInTheDocument();
    expect(asked.some((a) => a.path === "/api/sources/s1/compare")).toBe(true);
  });

  test.each([
    [{ theirs: 20, recovered: 0, missing: 0 }, "20 on its list, all of them here."],
    [{ theirs: 20, recovered: 0, missing: 2 }, "20 on its list; 2 could not be fetched."],
  ])("says what a comparison found: %o", async (found, words) => {
    show(<ComparePart sourceId="s1" source="Plaza" forms={forms} may now={now} />, {
      answers: {
        "GET /api/sources/s1/compared": { can: true, at: null, dueAt: null, fault: null, days: [] },
        "POST /api/sources/s1/compare": found,
      },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Compare now" }));
    expect(await screen.findByText(words)).toBeInTheDocument();
  });

  test("is not there for a source without a list", async () => {
    show(<ComparePart sourceId="s1" source="Pagewright" forms={forms} may now={now} />, {
      answers: { "GET /api/sources/s1/compared": { can: false, at: null, dueAt: null, fault: null, days: [] } },
    });
    await vi.waitFor(() => expect(screen.queryByRole("heading")).toBeNull());
  });

  const some = { network: { of: 24, p50: 0.9, p90: 1.3, p99: 1.4 }, ours: { of: 24, p50: 0.129, p90: 0.23, p99: 0.28 } };
  const none = { network: { of: 0, p50: null, p90: null, p99: null }, ours: { of: 0, p50: null, p90: null, p99: null } };

  test("keeps the network's delay and ours apart", async () => {
    const delays = [
      { formId: null, ...some },
      { formId: "f1", ...none },
      { formId: "f2", ...some },
    ];
    const three = [...forms, { id: "f2", name: "Winter test ride" }];
    show(<DelaysPart sourceId="s1" network="Plaza" forms={three} />, { answers: { "GET /api/sources/s1/delays": { delays } } });
    expect(
      await screen.findAllByRole("img", { name: "half within 900 ms, nine in ten within 1.3 s, 99 of 100 within 1.4 s, of 24" }),
    ).toHaveLength(2);
    for (const figure of ["129 ms", "230 ms", "280 ms"]) expect(screen.getAllByText(figure)).toHaveLength(2);
    expect(screen.getByText("all of Plaza")).toBeInTheDocument();
    expect(screen.getByText("its sender tells no time")).toBeInTheDocument();
    expect(screen.getByText("nothing went out")).toBeInTheDocument();
  });

  test("says the delays of a source with one form once", async () => {
    const delays = [null, "f1"].map((formId) => ({ formId, ...some }));
    show(<DelaysPart sourceId="s1" network="Plaza" forms={forms} />, { answers: { "GET /api/sources/s1/delays": { delays } } });
    expect(await screen.findByText("129 ms")).toBeInTheDocument();
    expect(screen.queryByText("all of Plaza")).toBeNull();
  });
});
