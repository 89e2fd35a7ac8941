import { screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { marksAfter, reactionsOf, stopsOf } from "@/features/fuses/model/dryRun";
import { entryOf, inSeconds } from "@/features/fuses/model/sheetLayout";
import { dryStamps } from "@/features/fuses/model/stamps";
import type { DryRun } from "@/features/fuses/model/useDryRun";
import { useDryRun } from "@/features/fuses/model/useDryRun";
import { DrySheet } from "@/features/fuses/panels/DrySheet";
import { RunSheet } from "@/features/fuses/sheet/RunSheet";
import { around } from "./kinds";
import { show } from "./show";

const moment = (seconds: number, kind: string, of: Partial<Schemas["DryMoment"]> = {}): Schemas["DryMoment"] => ({
  at: new Date(Date.UTC(2026, 10, 24, 12, 0, seconds)).toISOString(),
  kind,
  bandId: null,
  stepId: null,
  words: kind,
  message: null,
  ...of,
});
const moments = [
  moment(0, "band-lit", { bandId: "always", words: "whenever it is lit" }),
  moment(0, "band-passed", { bandId: "big", words: "fleet size was 4–9" }),
  moment(0, "step-sent", {
    stepId: "post",
    bandId: "always",
    words: "handed to Ridgeboard",
    message: {
      lane: "team",
      stepKind: "channel-post",
      through: "Ridgeboard",
      settings: { channel: "#ride-desk", words: "Ines asked." },
      size: null,
    },
  }),
  moment(1, "step-done", { stepId: "post", words: "Ridgeboard took it" }),
  moment(90, "step-waits", { stepId: "sms", words: "waits for send hours: Wednesday 08:00 in Europe/London" }),
];
const definition: Schemas["FuseDefinition"] = {
  name: "Test ride",
  litBy: [],
  bands: [
    {
      id: "always",
      name: "Always",
      entry: entryOf("always"),
      eachTime: false,
      steps: [
        { id: "post", name: "Post to the ride desk", kind: "channel-post", moment: inSeconds(0), settings: {} },
        { id: "sms", name: "Text them", kind: "text", moment: inSeconds(90), settings: {} },
      ],
    },
    { id: "big", name: "Big fleets", entry: entryOf("always"), eachTime: false, steps: [] },
  ],
};
const whole = { fuse: { id: "f", clientId: "c1" }, definition, around, faults: [], counts: [] } as unknown as Schemas["FuseDetail"];
const told: Schemas["DryRunTold"] = {
  leadId: "l1",
  lead: "Ines Carrow",
  litAt: "2026-11-24T12:00:00Z",
  zone: "Europe/London",
  zoneBecause: "by the number",
  clientZone: "Europe/London",
  note: null,
  moments,
  status: "listening",
  texts: 1,
  segments: 2,
};

describe("marks on the sheet", () => {
  it("tell the last word on each step, and which bands are lit", () => {
    const { steps, bands } = marksAfter(moments, moments.length);
    expect(steps.get("post")?.word).toBe("sent");
    expect(steps.get("sms")?.word).toBe("waits");
    expect([bands.get("always")?.word, bands.get("big")?.word]).toEqual(["lit", "passed by"]);
    expect(marksAfter(moments, 2).steps.size).toBe(0);
  });

  it("are drawn on its tickets and bands", () => {
    show(
      <RunSheet
        whole={{ around, faults: [], counts: [] }}
        definition={definition}
        mayEdit={false}
        openStep={undefined}
        openBand={undefined}
        onStep={vi.fn()}
        onBand={vi.fn()}
        onAddStep={vi.fn()}
        onAddBand={vi.fn()}
        stamps={dryStamps(moments, 4, "Europe/London")}
      />,
    );
    expect(within(screen.getByRole("button", { name: /^Post to the ride desk/ })).getByText("◆ sent 12:00:00")).toBeInTheDocument();
    expect(within(screen.getByRole("button", { name: /^Text them/ })).getByText("not yet")).toBeInTheDocument();
    expect(screen.getByText("◆ passed by 12:00:00")).toBeInTheDocument();
  });
});

test("what happens at one time is one press", () => {
  expect(stopsOf(moments)).toEqual([3, 4, 5]);
  expect(stopsOf([])).toEqual([]);
});

test("what can happen is offered with its details", () => {
  const offered = reactionsOf({
    events: [
      { key: "replied", sentence: "they reply", details: [], lights: true, stops: true, enters: true, timed: false },
      {
        key: "call-outcome",
        sentence: "a call ends",
        details: [{ key: "outcome", label: "ending", values: ["reached"] }],
        lights: true,
        stops: true,
        enters: true,
        timed: false,
      },
      { key: "hour", sentence: "an hour comes round", details: [], lights: true, stops: false, enters: false, timed: true },
    ],
    kinds: around.kinds,
  });
  expect(offered.map((o) => o.what)).toEqual(["replied", "call-outcome", "down"]);
  expect(offered[1]?.detail?.values).toEqual(["reached"]);
  expect(offered[2]?.detail?.values).toContain("ridgeboard");
});

function Panel() {
  const run = useDryRun("f", definition, true);
  return <DrySheet whole={whole} run={run} close={vi.fn()} />;
}

describe("the dry run", () => {
  const answers = {
    "GET /api/leads": {
      items: [
        { id: "l1", name: "Ines Carrow", asked: "4–9" },
        { id: "l2", name: "Quill Abara", asked: "" },
      ],
    },
    "POST /api/fuses/f/dry-run": told,
    "GET /api/forms": { forms: [{ id: "g", key: "page", name: "Book a test ride", state: "receiving" }] },
    "GET /api/forms/g": {
      fields: [
        { name: "fleet", label: "How many bikes?", choices: ["1–3", "25+"] },
        { name: "who", label: "", choices: [] },
      ],
    },
  };

  it("begins with whoever asked last, and tells every moment in full", async () => {
    const asked = show(<Panel />, { answers });
    expect(await screen.findByText("Ines asked.")).toBeInTheDocument();
    expect(screen.getByText(/They get 1 text, 2 segments in all/)).toBeInTheDocument();
    expect(screen.getByText(/waits for send hours/)).toBeInTheDocument();
    expect(asked.find((a) => a.path.endsWith("dry-run"))?.body).toMatchObject({ leadId: "l1", reactions: [], at: null });
    await userEvent.click(screen.getByRole("button", { name: "To the start" }));
    expect(screen.queryByText("Ines asked.")).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Next moment" }));
    expect(screen.getByText("Ines asked.")).toBeInTheDocument();
    expect(screen.queryByText(/waits for send hours/)).not.toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "An older lead" }));
    expect(asked.at(-1)?.body).toMatchObject({ leadId: "l2" });
  });

  it("lets things happen, and takes them out again", async () => {
    const asked = show(<Panel />, { answers });
    await screen.findByText("Ines asked.");
    await userEvent.selectOptions(screen.getByLabelText("Add something that happens"), "down");
    expect(asked.at(-1)?.body).toMatchObject({ reactions: [{ what: "down", afterSeconds: 0 }] });
    await userEvent.click(screen.getByRole("button", { name: "Take out" }));
    expect(asked.at(-1)?.body).toMatchObject({ reactions: [] });
  });

  it("takes answers that are typed", async () => {
    const asked = show(<Panel />, { answers });
    await screen.findByText("Ines asked.");
    await userEvent.selectOptions(screen.getByLabelText("With the answers of"), "typed");
    await userEvent.selectOptions(await screen.findByLabelText("On the form"), "page");
    await userEvent.selectOptions(await screen.findByLabelText("How many bikes?"), "25+");
    await vi.waitFor(() => expect(asked.at(-1)?.body).toMatchObject({ leadId: null, form: "page", answers: { fleet: "25+" } }));
  });

  it("says why it cannot be run, and what it was not lit by", async () => {
    show(<Panel />, {
      answers: {
        ...answers,
        "POST /api/fuses/f/dry-run": { status: 400, body: { title: "Bad input", detail: "It cannot be run as it is." } },
      },
    });
    expect(await screen.findByText(/cannot be run as it is/)).toBeInTheDocument();
  });
});

test("a place beyond what is there shows all of it", () => {
  const Held = () => {
    const [place, setPlace] = useState<number | null>(99);
    const run = {
      who: { leadId: "l1" },
      setWho: vi.fn(),
      at: "",
      setAt: vi.fn(),
      reactions: [],
      setReactions: vi.fn(),
      place,
      setPlace,
      told,
      error: null,
    } as unknown as DryRun;
    return <DrySheet whole={whole} run={run} close={vi.fn()} />;
  };
  show(<Held />, { answers: { "GET /api/leads": { items: [] } } });
  expect(screen.getAllByRole("listitem")).toHaveLength(moments.length);
});
