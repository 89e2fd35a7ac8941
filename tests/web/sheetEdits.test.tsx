import { createEvent, fireEvent, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useReducer } from "react";
import { beforeEach, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { HeldBanner } from "@/features/frame/HeldBanner";
import { history } from "@/features/fuses/model/editing";
import { entryOf, inSeconds } from "@/features/fuses/model/sheetLayout";
import type { Draft } from "@/features/fuses/model/useFuse";
import { useSheetEdits } from "@/features/fuses/model/useSheetEdits";
import { ArmSheet } from "@/features/fuses/panels/ArmSheet";
import { FieldChooser } from "@/features/fuses/panels/FieldChooser";
import { RunSheet } from "@/features/fuses/sheet/RunSheet";
import { around } from "./kinds";
import { person, show } from "./show";

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
        { id: "post", name: "Post", kind: "channel-post", moment: inSeconds(0), settings: { channel: "#x", words: "a" } },
        { id: "sms", name: "Text them", kind: "text", moment: inSeconds(60), settings: { words: "Hello" } },
      ],
    },
    { id: "later", name: "Later", entry: entryOf("on", { event: "replied" }), eachTime: false, steps: [] },
  ],
};
let seen = definition;

function Sheet() {
  const [state, act] = useReducer(history, { past: [], present: definition, future: [], saved: definition });
  seen = state.present;
  const { edits, said } = useSheetEdits({ state, act } as unknown as Draft, vi.fn());
  return (
    <>
      <RunSheet
        whole={{ around, faults: [], counts: null }}
        definition={state.present}
        mayEdit
        openStep={undefined}
        openBand={undefined}
        onStep={vi.fn()}
        onBand={vi.fn()}
        onAddStep={vi.fn()}
        onAddBand={vi.fn()}
        edits={edits}
      />
      <output>{said}</output>
      <button type="button" onClick={() => act({ type: "undo" })}>
        Undo
      </button>
    </>
  );
}
const sms = () => screen.getByRole("button", { name: /^Text them/ });
const bandOf = (id: string) => seen.bands.find((b) => b.steps.some((s) => s.id === id));

beforeEach(() => localStorage.clear());

test("keys move a step along the line and between bands, say so, and are undone", async () => {
  show(<Sheet />);
  fireEvent.keyDown(sms(), { key: "ArrowRight", altKey: true });
  expect(bandOf("sms")?.steps[1]?.moment.afterSeconds).toBe(120);
  fireEvent.keyDown(sms(), { key: "ArrowDown", altKey: true });
  expect(bandOf("sms")?.id).toBe("later");
  expect(screen.getByText("Text them: 2 min, in Later")).toBeInTheDocument();
  await userEvent.click(screen.getByRole("button", { name: "Undo" }));
  expect(bandOf("sms")?.id).toBe("always");
});

test("a step is copied and cut by key, and pasted into another band", async () => {
  show(<Sheet />);
  fireEvent.keyDown(sms(), { key: "x", ctrlKey: true });
  expect(bandOf("sms")).toBeUndefined();
  await userEvent.click(screen.getByRole("button", { name: "Paste Text them into Later" }));
  expect(seen.bands[1]?.steps.map((s) => s.name)).toEqual(["Text them"]);
  fireEvent.keyDown(screen.getByRole("button", { name: /^Post/ }), { key: "c", ctrlKey: true });
  fireEvent.keyDown(sms(), { key: "v", ctrlKey: true });
  expect(seen.bands[1]?.steps.map((s) => s.name)).toEqual(["Text them", "Post"]);
  fireEvent.keyDown(sms(), { key: "Delete" });
  expect(seen.bands[1]?.steps.map((s) => s.name)).toEqual(["Post"]);
});

test("arrows go from ticket to ticket", () => {
  show(<Sheet />);
  sms().focus();
  fireEvent.keyDown(sms(), { key: "ArrowLeft" });
  const post = screen.getByRole("button", { name: /^Post/ });
  expect(post).toHaveFocus();
  fireEvent.keyDown(post, { key: "ArrowLeft" }); // the first stays
  expect(post).toHaveFocus();
  fireEvent.keyDown(post, { key: "ArrowRight" });
  expect(sms()).toHaveFocus();
});

// A band's line as a browser would lay it out: every part of it a hundred units wide.
const laidOut = (band: string) => {
  const tracks = [...screen.getByRole("region", { name: band }).querySelectorAll<HTMLElement>("[data-track]")];
  tracks.forEach((track, i) => {
    track.getBoundingClientRect = () => ({ left: i * 100, right: i * 100 + 100 }) as DOMRect;
  });
  return tracks;
};
const carried = (stepId: string) => ({ types: ["application/x-lit-fuse-step"], getData: () => stepId, setData: vi.fn() });
const letGo = (on: Element, stepId: string, x: number) => {
  const event = createEvent.drop(on, { dataTransfer: carried(stepId) });
  Object.defineProperty(event, "clientX", { value: x });
  fireEvent(on, event);
};

test("a step let go among others takes their moment; on a stretch, a sensible one between", () => {
  show(<Sheet />);
  const [first] = laidOut("Always") as [HTMLElement];
  letGo(first, "sms", 150); // the moment "at once"
  expect(bandOf("sms")?.steps[1]?.moment.afterSeconds).toBe(0);
  fireEvent.click(screen.getByRole("button", { name: "Undo" }));
  letGo(laidOut("Always")[0] as HTMLElement, "post", 250); // between at once and 1 min
  expect(bandOf("post")?.steps[0]?.moment.afterSeconds).toBe(20);
  letGo(laidOut("Always")[0] as HTMLElement, "sms", 450); // after the last
  expect(bandOf("sms")?.steps[1]?.moment.afterSeconds).toBe(120);
});

test("a step let go on a band's head keeps its moment", () => {
  show(<Sheet />);
  letGo(screen.getByRole("heading", { name: /repl/ }), "sms", 0);
  expect(bandOf("sms")?.id).toBe("later");
  expect(bandOf("sms")?.steps[0]?.moment.afterSeconds).toBe(60);
});

test("a field is found by its name or by what it holds, and put in by Enter", async () => {
  const choose = vi.fn();
  show(
    <FieldChooser
      choices={[
        { name: "first name", text: '{{ lead.first_name | default: "Hello" }}' },
        { name: "company", text: "{{ lead.company }}" },
      ]}
      samples={{ "lead.first_name": "Ines", "lead.company": "Hale & Pike" }}
      onChoose={choose}
    />,
  );
  await userEvent.click(screen.getByRole("button", { name: "Put a field in" }));
  await userEvent.type(screen.getByLabelText("Search the fields"), "hale{Enter}");
  expect(choose).toHaveBeenCalledWith("{{ lead.company }}");
});

test("arming for earlier leads says for how many and what would go out first", async () => {
  const mutate = vi.fn();
  show(
    <ArmSheet
      whole={{ fuse: { id: "f1" }, revision: 4, around } as unknown as Schemas["FuseDetail"]}
      definition={definition}
      draft={{ dirty: false, arm: { mutate, isPending: false } } as unknown as Draft}
      mayEdit
      close={vi.fn()}
    />,
    {
      answers: {
        "GET /api/fuses/f1/catch-up": {
          days: 3,
          asked: 9,
          lit: 7,
          lookedAt: 7,
          tooLate: 4,
          first: [
            { leadId: "l1", lead: "Ines Carrow", step: "Post", lane: "team", to: "#ride-desk", at: "2026-11-25T09:00:00Z", words: "asked" },
          ],
        },
      },
    },
  );
  expect(await screen.findByText(/of 9 leads would light it now/)).toBeInTheDocument();
  expect(screen.getByText(/To 4/)).toBeInTheDocument();
  await userEvent.click(screen.getByRole("button", { name: "Arm it, and light it for 7" }));
  expect(mutate.mock.calls[0]?.[0]).toBe(3);
});

test("what is held says so on every page, and is let go", async () => {
  const counts = [
    {
      id: "c1",
      key: "brackenwheel",
      inTheAir: 0,
      late: 0,
      linesCut: 0,
      waiting: 0,
      heldAt: "2026-11-25T09:00:00Z",
      heldBy: "Noor",
      heldBack: 3,
    },
  ];
  const asked = show(<HeldBanner person={person} chosen={undefined} counts={counts} />, {
    answers: { "POST /api/clients/c1/let-go": null },
  });
  expect(screen.getByRole("status")).toHaveTextContent("Everything is held for Brackenwheel");
  expect(screen.getByRole("status")).toHaveTextContent("3 messages wait");
  await userEvent.click(screen.getByRole("button", { name: "Let it go on" }));
  expect(asked.some((a) => a.path === "/api/clients/c1/let-go")).toBe(true);
});
