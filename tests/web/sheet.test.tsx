import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { fireEvent, render, screen, within } from "@testing-library/react";
import { useState } from "react";
import { createMemoryRouter, RouterProvider } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { SignedIn } from "@/app/useSession";
import type { Edit } from "@/features/fuses/model/editing";
import { entryOf, inSeconds } from "@/features/fuses/model/sheetLayout";
import type { SideProps } from "@/features/fuses/model/sheetProps";
import { BandSheet } from "@/features/fuses/panels/BandSheet";
import { LitBySheet } from "@/features/fuses/panels/LitBySheet";
import { StepSheet } from "@/features/fuses/panels/StepSheet";
import { WrongSheet } from "@/features/fuses/panels/WrongSheet";
import { RunSheet } from "@/features/fuses/sheet/RunSheet";
import { system } from "@/ui/theme";
import { around } from "./kinds";
import { person } from "./show";

const text: Schemas["Step"] = {
  id: "sms",
  name: "Text: someone is on it",
  kind: "text",
  moment: inSeconds(90),
  settings: { words: "{{ lead.first_name }}, hello" },
};
const post: Schemas["Step"] = {
  id: "post",
  name: "Post to the ride desk",
  kind: "channel-post",
  moment: inSeconds(0),
  settings: { channel: "#ride-desk", words: "{{ lead.name }}" },
};
const definition: Schemas["FuseDefinition"] = {
  name: "Test ride",
  litBy: [{ event: "submission", only: { form: ["page"] } }],
  relight: "when-last-ended",
  stopOn: [{ event: "touched" }],
  ageLimitHours: 24,
  bands: [
    { id: "always", name: "Always", entry: entryOf("always"), steps: [post], eachTime: false },
    {
      id: "big",
      name: "Big fleets",
      entry: entryOf("when", { rules: { match: "all", rules: [{ field: "fleet_size", op: "one-of", values: ["25+"] }] } }),
      eachTime: false,
      steps: [text],
    },
  ],
};
const whole: Schemas["FuseDetail"] = {
  fuse: {
    id: "f",
    clientId: "c",
    client: "Brackenwheel",
    name: "Test ride",
    state: "armed",
    armedVersion: 1,
    draftDiffers: false,
    sentence: "",
    litIn30Days: 3,
  },
  definition,
  armed: definition,
  revision: 1,
  armedAt: null,
  armedBy: null,
  draftBy: null,
  draftAt: null,
  faults: [{ code: "words", bandId: "big", stepId: "sms", what: "The words cannot be read.", mend: "Mend them.", blocks: true }],
  proposedName: "Book a test ride: text the lead",
  counts: [{ band: "Big fleets", litIn30Days: 12 }],
  around,
};

beforeEach(() => {
  vi.stubGlobal(
    "fetch",
    async () =>
      new Response(
        JSON.stringify({
          rendered: "Ines, hello",
          fault: null,
          size: { units: 11, segments: 1, unicode: false },
          leadId: "l",
          lead: "Ines Calloway",
          askedAt: null,
          place: 0,
          of: 2,
        }),
        { status: 200, headers: { "content-type": "application/json" } },
      ),
  );
});
afterEach(() => vi.unstubAllGlobals());

/** Shows one side sheet over a definition that its edits change; returns how it stands. */
function open(sheet: (side: SideProps) => React.ReactNode, mayEdit = true, over: Partial<Schemas["FuseDetail"]> = {}) {
  const seen = { definition, closed: 0 };
  function Host() {
    const [present, setPresent] = useState(definition);
    seen.definition = present;
    const act = (edit: Edit) => edit.type === "edit" && setPresent(edit.to);
    return sheet({
      whole: { ...whole, ...over },
      definition: present,
      draft: { act, dirty: false } as never,
      mayEdit,
      close: () => {
        seen.closed += 1;
      },
    });
  }
  const router = createMemoryRouter([{ path: "*", element: <Host /> }]);
  render(
    <ChakraProvider value={system}>
      <QueryClientProvider client={new QueryClient()}>
        <SignedIn value={person}>
          <RouterProvider router={router} />
        </SignedIn>
      </QueryClientProvider>
    </ChakraProvider>,
  );
  return seen;
}
const band = (d: Schemas["FuseDefinition"], id: string) => d.bands.find((b) => b.id === id) as Schemas["Band"];

describe("the run sheet", () => {
  const sheet = (mayEdit: boolean, on = { step: vi.fn(), band: vi.fn(), addStep: vi.fn(), addBand: vi.fn() }) => {
    open(({ definition: d }) => (
      <RunSheet
        whole={whole}
        definition={d}
        mayEdit={mayEdit}
        openStep="sms"
        openBand={undefined}
        onStep={on.step}
        onBand={on.band}
        onAddStep={on.addStep}
        onAddBand={on.addBand}
      />
    ));
    return on;
  };

  it("is bands down, each a list of its moments in their order", () => {
    sheet(true);
    const bands = within(screen.getByRole("group", { name: "Run sheet" })).getAllByRole("region");
    expect(
      bands.map((b) =>
        within(b)
          .getAllByRole("listitem")
          .map((m) => m.textContent),
      ),
    ).toEqual([["at onceTeamPost to the ride desk#ride-desk"], ["90 sLeadText: someone is on it ▲‹first name›, hello"]]);
    expect(screen.getByRole("button", { name: "When fleet size is 25+" })).toBeInTheDocument();
    expect(screen.getByText("lit 12 times in 30 days")).toBeInTheDocument();
    expect(screen.getByText("08:00–20:30")).toBeInTheDocument(); // send hours stand at the lead's lane
  });

  it("marks what is open and what is to mend", () => {
    sheet(true);
    const ticket = screen.getByRole("button", { name: /Text: someone is on it/ });
    expect(ticket).toHaveAttribute("aria-expanded", "true");
    expect(ticket).toHaveTextContent("▲");
    expect(ticket).toHaveTextContent("‹first name›, hello");
  });

  it("opens steps and bands, and adds them by kind", () => {
    const on = sheet(true);
    fireEvent.click(screen.getByRole("button", { name: /Post to the ride desk/ }));
    fireEvent.click(screen.getByRole("button", { name: "Always" }));
    fireEvent.click(screen.getByRole("button", { name: "Add a step to Big fleets" }));
    fireEvent.click(screen.getByRole("button", { name: "Text to the lead" }));
    fireEvent.click(screen.getByRole("button", { name: "Add a band" }));
    expect([
      on.step.mock.calls[0]?.[0],
      on.band.mock.calls[0]?.[0],
      on.addStep.mock.calls[0]?.[0],
      on.addStep.mock.calls[0]?.[1].key,
      on.addBand.mock.calls.length,
    ]).toEqual(["post", "always", "big", "text", 1]);
  });

  it("offers no edit to who may only read", () => {
    sheet(false);
    expect(screen.queryByRole("button", { name: /Add/ })).not.toBeInTheDocument();
  });
});

describe("a step", () => {
  const step = (id: string) => (side: SideProps) => {
    const found = side.definition.bands.flatMap((b) => b.steps).find((s) => s.id === id);
    return found ? <StepSheet step={found} {...side} /> : null;
  };

  it("shows its faults and how to mend them", () => {
    open(step("sms"));
    expect(screen.getByText("The words cannot be read.")).toBeInTheDocument();
    expect(screen.getByText("Mend them.")).toBeInTheDocument();
  });

  it("is given a usual moment or a time of its own", () => {
    const seen = open(step("post"));
    const moment = () => band(seen.definition, "always").steps[0]?.moment;
    fireEvent.change(screen.getByLabelText("It is done, after the band lit"), { target: { value: "300" } });
    expect(moment()?.afterSeconds).toBe(300);
    fireEvent.change(screen.getByLabelText("It is done, after the band lit"), { target: { value: "own" } });
    fireEvent.change(screen.getByLabelText("How long after"), { target: { value: "7" } });
    expect(moment()?.afterSeconds).toBe(420);
    fireEvent.change(screen.getByLabelText("Unit"), { target: { value: "h" } });
    expect(moment()?.afterSeconds).toBe(7 * 3600);
    fireEvent.change(screen.getByLabelText("It is done, after the band lit"), { target: { value: "day" } });
    fireEvent.change(screen.getByLabelText("Days after"), { target: { value: "12" } });
    fireEvent.change(screen.getByLabelText("counted in"), { target: { value: "working" } });
    fireEvent.change(screen.getByLabelText("counted from"), { target: { value: "submission" } });
    expect(moment()).toEqual({ afterSeconds: 0, days: 12, working: true, at: "09:30", from: "submission" });
  });

  it("keeps hours, and says what follows when it fails", () => {
    const seen = open(step("sms"));
    const sms = () => band(seen.definition, "big").steps[0];
    fireEvent.change(screen.getByLabelText("Goes out"), { target: { value: "own" } });
    fireEvent.change(screen.getByLabelText("from"), { target: { value: "10:00" } });
    fireEvent.change(screen.getByLabelText("Outside them"), { target: { value: "skip" } });
    expect(sms()?.hours).toEqual({ kind: "own", outside: "skip", from: "10:00", to: "18:00" });
    fireEvent.change(screen.getByLabelText("Goes out"), { target: { value: "send" } });
    expect(sms()?.hours).toBeNull();
    fireEvent.change(screen.getByLabelText("and then"), { target: { value: "tell" } });
    fireEvent.change(screen.getByLabelText("Who"), { target: { value: "u1" } });
    expect(sms()?.onFailure).toMatchObject({ next: "tell", person: "u1" });
    fireEvent.change(screen.getByLabelText("and then"), { target: { value: "go-on" } });
    expect(sms()?.onFailure).toBeNull();
  });

  it("offers choices, takes kept words, and has a condition of its own", () => {
    const seen = open(step("sms"));
    const sms = () => band(seen.definition, "big").steps[0];
    fireEvent.change(screen.getByLabelText("They may choose from, one a line"), { target: { value: "Tuesday\nFriday" } });
    expect(sms()?.choices).toEqual(["Tuesday", "Friday"]);
    fireEvent.change(screen.getByLabelText("Take words ready for use"), { target: { value: "thank_you" } });
    expect(sms()).toMatchObject({ ready: { key: "thank_you", version: 2 }, settings: { words: "Many thanks" } });
    fireEvent.click(within(screen.getByRole("group", { name: "Only when" })).getByRole("button", { name: "Add a rule" }));
    expect(sms()?.when?.rules[0]).toEqual({ field: "fleet_size", op: "one-of", values: [] });
  });

  it("takes words with fields put in, and shows them for a real lead", async () => {
    const seen = open(step("sms"));
    expect(await screen.findByText("Ines Calloway")).toBeInTheDocument();
    expect(screen.getByRole("status", { name: "Preview" })).toHaveTextContent("Ines, hello");
    expect(screen.getByText("11 · 1 segment")).toBeInTheDocument();
    fireEvent.change(screen.getByLabelText("Words"), { target: { value: "Hi " } });
    fireEvent.click(screen.getAllByRole("button", { name: "Put a field in" })[0] as HTMLElement);
    fireEvent.click(screen.getByRole("button", { name: /^company/ }));
    expect(band(seen.definition, "big").steps[0]?.settings.words).toContain("{{ lead.company }}");
  });

  it("keeps a channel that is gone in sight, and takes a typed one when the chat does not answer", () => {
    open(step("post"), true, { around: { ...around, channels: [{ key: "#other", name: "other" }] } });
    expect(screen.getByText("'#ride-desk' is not there any more.")).toBeInTheDocument();
  });

  it("lets a channel be typed when the chat does not answer", () => {
    const seen = open(step("post"), true, { around: { ...around, channels: null } });
    fireEvent.change(screen.getByLabelText("Channel"), { target: { value: "#typed" } });
    expect(band(seen.definition, "always").steps[0]?.settings.channel).toBe("#typed");
  });

  it("is taken out, and the sheet closes", () => {
    const seen = open(step("sms"));
    fireEvent.click(screen.getByRole("button", { name: "Take the step out" }));
    expect(band(seen.definition, "big").steps).toEqual([]);
    expect(seen.closed).toBe(1);
  });

  it("cannot be changed by who may only read", () => {
    open(step("sms"), false);
    expect(screen.getByLabelText("Name, as the story tells it")).toBeDisabled();
    expect(screen.queryByRole("button", { name: "Take the step out" })).not.toBeInTheDocument();
  });
});

describe("a band's entry", () => {
  const sheet = (id: string) => (side: SideProps) => {
    const found = side.definition.bands.find((b) => b.id === id);
    return found ? <BandSheet band={found} {...side} /> : null;
  };

  it("is a sentence whose parts are changed", () => {
    const seen = open(sheet("big"));
    fireEvent.click(screen.getByLabelText("1–3"));
    expect(band(seen.definition, "big").entry.rules?.rules[0]?.values).toEqual(["1–3", "25+"]); // in the field's own order
    fireEvent.change(screen.getByLabelText("Comparison"), { target: { value: "filled" } });
    expect(screen.queryByLabelText("1–3")).not.toBeInTheDocument();
    fireEvent.change(screen.getByLabelText("Field"), { target: { value: "company" } });
    expect(band(seen.definition, "big").entry.rules?.rules[0]).toEqual({ field: "company", op: "filled", values: [] });
  });

  it("joins several rules by all or any", () => {
    const seen = open(sheet("big"));
    fireEvent.click(screen.getByRole("button", { name: "And another rule" }));
    fireEvent.change(screen.getByLabelText("How the rules are joined"), { target: { value: "any" } });
    expect(band(seen.definition, "big").entry.rules).toMatchObject({ match: "any", rules: [{ values: ["25+"] }, { values: [] }] });
    fireEvent.click(screen.getAllByRole("button", { name: "Take this rule out" })[0] as HTMLElement);
    expect(band(seen.definition, "big").entry.rules?.rules).toHaveLength(1);
  });

  it("keeps its rules while it is made always and when again", () => {
    const seen = open(sheet("big"));
    fireEvent.change(screen.getByLabelText("It is entered"), { target: { value: "otherwise" } });
    expect(band(seen.definition, "big").entry).toEqual({ kind: "otherwise", forSeconds: 0 });
    fireEvent.click(screen.getByRole("button", { name: "Take the band out" }));
    expect(seen.definition.bands.map((b) => b.id)).toEqual(["always"]);
  });
});

describe("a band that an event enters", () => {
  const sheet = (side: SideProps) => {
    const found = side.definition.bands.find((b) => b.id === "big");
    return found ? <BandSheet band={found} {...side} /> : null;
  };
  const enter = (kind: string) => fireEvent.change(screen.getByLabelText("It is entered"), { target: { value: kind } });
  const entry = (seen: { definition: Schemas["FuseDefinition"] }) => band(seen.definition, "big").entry;

  it("picks by what a reply means", () => {
    const seen = open(sheet);
    enter("on");
    expect(entry(seen)).toMatchObject({ kind: "on", event: "replied", only: { meaning: ["yes"] } });
    fireEvent.click(within(screen.getByRole("group", { name: "meaning" })).getByLabelText("choice"));
    expect(entry(seen).only).toEqual({ meaning: ["yes", "choice"] });
    fireEvent.click(screen.getByLabelText(/each time it happens/));
    expect(band(seen.definition, "big").eachTime).toBe(true);
    fireEvent.change(screen.getByLabelText("The event"), { target: { value: "tagged" } });
    fireEvent.change(screen.getByLabelText(/the tag/), { target: { value: "vip, big" } });
    expect(entry(seen).only).toEqual({ tag: ["vip", "big"] });
  });

  it("waits for silence after a step, or for another band's end", () => {
    const seen = open(sheet);
    enter("silence");
    expect(entry(seen)).toMatchObject({ kind: "silence", of: "sms", forSeconds: 7200 });
    fireEvent.change(screen.getByLabelText("They have not written back for"), { target: { value: "3" } });
    expect(entry(seen).forSeconds).toBe(3 * 3600);
    enter("end");
    expect(entry(seen)).toMatchObject({ kind: "end", of: "always" });
    enter("failed");
    fireEvent.change(screen.getByLabelText("Which step"), { target: { value: "post" } });
    expect(entry(seen).of).toBe("post");
  });

  it("has groups of rules in rules", () => {
    const seen = open(sheet);
    fireEvent.click(screen.getByRole("button", { name: "Add a group" }));
    const group = within(screen.getByRole("group", { name: "A group of rules" }));
    fireEvent.change(group.getByLabelText("Field"), { target: { value: "history.came_before" } });
    expect(entry(seen).rules?.groups).toEqual([{ match: "any", rules: [{ field: "history.came_before", op: "yes", values: [] }] }]);
    fireEvent.change(group.getByLabelText("Field"), { target: { value: "history.times_asked" } });
    fireEvent.change(group.getByLabelText("Value"), { target: { value: "2" } });
    expect(entry(seen).rules?.groups?.[0]?.rules[0]).toEqual({ field: "history.times_asked", op: "at-least", values: ["2"] });
    fireEvent.click(screen.getByRole("button", { name: "Take this group out" }));
    expect(entry(seen).rules?.groups).toBeNull();
  });
});

describe("what lights it, and what is wrong", () => {
  it("are chosen among what there is", () => {
    const seen = open((side) => <LitBySheet {...side} />);
    fireEvent.click(within(screen.getByRole("group", { name: "on the form" })).getByLabelText(/Test ride/));
    fireEvent.click(within(screen.getByRole("group", { name: "It stops when" })).getByLabelText("they want no more messages"));
    fireEvent.change(screen.getByLabelText("When the same person lights it again, it burns"), { target: { value: "once" } });
    fireEvent.change(screen.getByLabelText(/at most so many hours late/), { target: { value: "6" } });
    expect(seen.definition).toMatchObject({
      litBy: [{ only: { form: ["page", "plaza"] } }],
      stopOn: [{ event: "touched" }, { event: "opted-out" }],
      relight: "once",
      ageLimitHours: 6,
    });
  });

  it("can be several, by a clock too, each with its rule", () => {
    const seen = open((side) => <LitBySheet {...side} />);
    fireEvent.click(screen.getByRole("button", { name: "Also lit by" }));
    fireEvent.change(screen.getByLabelText("or when"), { target: { value: "hour" } });
    fireEvent.click(screen.getByLabelText("Mon"));
    fireEvent.change(screen.getByLabelText("At (in Europe/London)"), { target: { value: "10:15" } });
    expect(seen.definition.litBy[1]).toMatchObject({ event: "hour", timer: { at: "10:15", weekdays: [1] } });
    fireEvent.change(screen.getByLabelText("or when"), { target: { value: "date-reached" } });
    fireEvent.change(screen.getByLabelText(/Days after it/), { target: { value: "-7" } });
    expect(seen.definition.litBy[1]?.timer).toMatchObject({ field: "fleet_size", days: -7 });
    fireEvent.change(screen.getByLabelText("When the same person lights it again, it burns"), { target: { value: "once-in-days" } });
    fireEvent.change(screen.getByLabelText("Days"), { target: { value: "14" } });
    expect(seen.definition).toMatchObject({ relight: "once-in-days", relightDays: 14 });
    fireEvent.click(screen.getAllByRole("button", { name: "Not lit by this" })[1] as HTMLElement);
    expect(seen.definition.litBy).toHaveLength(1);
  });

  it("leads to the place of each fault", () => {
    const go = { step: vi.fn(), band: vi.fn(), lit: vi.fn() };
    open((side) => <WrongSheet {...side} onStep={go.step} onBand={go.band} onLit={go.lit} />, true, {
      faults: [
        ...whole.faults,
        { code: "nothing-leads-to", bandId: "big", stepId: null, what: "B", mend: "b", blocks: true },
        { code: "nothing-lights", bandId: null, stepId: null, what: "Nothing lights it.", mend: "Choose.", blocks: true },
      ],
    });
    for (const button of screen.getAllByRole("button", { name: "Go there" })) fireEvent.click(button);
    expect([go.step.mock.calls, go.band.mock.calls, go.lit.mock.calls.length]).toEqual([[["sms"]], [["big"]], 1]);
  });

  it("says so when nothing is", () => {
    open((side) => <WrongSheet {...side} onStep={vi.fn()} onBand={vi.fn()} onLit={vi.fn()} />, true, { faults: [] });
    expect(screen.getByText("Nothing. It can be armed as it stands.")).toBeInTheDocument();
  });
});
