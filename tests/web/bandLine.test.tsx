import { createEvent, fireEvent, render, screen, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { entryOf, inSeconds } from "@/features/fuses/model/sheetLayout";
import type { Stamps } from "@/features/fuses/model/stamps";
import { BandLine } from "@/features/fuses/sheet/BandLine";
import { kinds } from "./kinds";

/** A band's line: where its steps stand, and what is drawn again. */

const step = (id: string, kind: string, afterSeconds: number, more: Partial<Schemas["Step"]> = {}): Schemas["Step"] => ({
  id,
  name: id,
  kind,
  moment: inSeconds(afterSeconds),
  settings: { words: "Hello", channel: "#ride-desk" },
  ...more,
});
const band = (...steps: Schemas["Step"][]): Schemas["Band"] => ({
  id: "b1",
  name: "Always",
  entry: entryOf("always"),
  eachTime: false,
  steps,
});
type Props = Parameters<typeof BandLine>[0];
const line = (of: Schemas["Band"], more: Partial<Props> = {}) => (
  <BandLine
    band={of}
    kinds={kinds}
    sendHours="08:00–20:30"
    openStep={undefined}
    faulty=""
    notes="{}"
    onOpen={nothing}
    onKey={nothing}
    onDrop={null}
    stamps={null}
    {...more}
  />
);
function nothing() {}
// Where a part of the grid stands: its rows and columns.
const area = (of: Element | null | undefined) => (of as HTMLElement).style.gridArea.replaceAll(/\s+/g, " ");
const list = () => screen.getByRole("list");
const drawn = (name: string) => screen.getByRole("button", { name: new RegExp(`^${name}`) });

describe("a band's line", () => {
  const three = band(step("sms", "text", 60), step("post", "channel-post", 0), step("letter", "text", 7200));

  it("has a column for each moment with a stretch before it, and a row for each lane", () => {
    render(line(three));
    expect(list().style.gridTemplateRows).toBe("auto repeat(2, auto)");
    expect(list().style.gridTemplateColumns.match(/minmax\(92px/g)).toHaveLength(3);
    expect(area(screen.getByText("at once"))).toMatch(/^1 \/ 3/);
    expect(area(screen.getByText("1 min"))).toMatch(/^1 \/ 5/);
    expect(area(screen.getByText("2 h"))).toMatch(/^1 \/ 7/);
    expect(area(drawn("post").parentElement)).toBe("3 / 3"); // Team is the second lane
    expect(area(drawn("sms").parentElement)).toBe("2 / 5");
    expect(area(drawn("letter").parentElement)).toBe("2 / 7");
  });

  it("reads as a list of moments in their order, each step with its lane", () => {
    render(line(three));
    const moments = within(list()).getAllByRole("listitem");
    expect(moments.map((m) => m.textContent)).toEqual(["at onceTeampost#ride-desk", "1 minLeadsms#ride-desk", "2 hLeadletter#ride-desk"]);
  });

  it("hatches what may have to wait for send hours, and only that", () => {
    render(
      line(
        band(
          step("soon", "text", 60),
          step("late", "text", 7200),
          step("morning", "text", 0, { moment: { ...inSeconds(0), days: 1, at: "09:00" } }),
          step("post", "channel-post", 10_800),
        ),
      ),
    );
    const waits = screen.getAllByTitle("May wait for send hours");
    expect(waits.map(area)).toEqual(["2 / 4 / auto / span 2"]); // the stretch before the second moment, and its column
  });

  it("is not drawn where nothing is done", () => {
    const { container } = render(line(band()));
    expect(container).toBeEmptyDOMElement();
  });

  it("says the send hours at the lead's lane alone", () => {
    const { rerender } = render(line(band(step("post", "channel-post", 0))));
    expect(screen.queryByText("08:00–20:30")).not.toBeInTheDocument();
    rerender(line(three));
    expect(screen.getByText("08:00–20:30")).toBeInTheDocument();
  });

  it("marks what is open, faulty and not reached, with its notes and its stamp", () => {
    const stamps: Stamps = { band: () => null, step: (id) => <span>{`stamp ${id}`}</span>, reached: (id) => id === "post" };
    render(line(three, { openStep: "sms", faulty: "letter", notes: '{"sms":"waits for post"}', stamps }));
    expect(drawn("sms")).toHaveAttribute("aria-expanded", "true");
    expect(drawn("sms")).toHaveTextContent("waits for post");
    expect(drawn("letter")).toHaveTextContent("letter ▲");
    expect(drawn("letter")).toHaveAttribute("data-dim", "true");
    expect(drawn("post")).not.toHaveAttribute("data-dim");
    expect(drawn("post")).toHaveTextContent("stamp post");
  });

  it("is the very same drawing where nothing of it changed, and another where something did", () => {
    const stamps: Stamps = { band: () => null, step: vi.fn(() => null), reached: () => true };
    const { rerender } = render(line(three, { stamps }));
    const before = vi.mocked(stamps.step).mock.calls.length;
    rerender(line(three, { stamps }));
    expect(vi.mocked(stamps.step).mock.calls.length).toBe(before);
    rerender(line({ ...three }, { stamps }));
    expect(vi.mocked(stamps.step).mock.calls.length).toBe(before + 3);
  });
});

describe("dragging over a line", () => {
  const carries = (types: string[]) => ({ types, getData: () => "sms", setData: vi.fn(), effectAllowed: "" });
  const over = (x: number, types = ["application/x-lit-fuse-step"]) => {
    const tracks = [...list().querySelectorAll<HTMLElement>("[data-track]")];
    tracks.forEach((track, i) => {
      track.getBoundingClientRect = () => ({ left: i * 100, right: i * 100 + 100 }) as DOMRect;
    });
    const event = createEvent.dragOver(list(), { dataTransfer: carries(types) });
    Object.defineProperty(event, "clientX", { value: x });
    fireEvent(list(), event);
    return { taken: event.defaultPrevented, at: tracks.find((t) => t.dataset.over)?.dataset.track ?? null };
  };
  const two = band(step("post", "channel-post", 0), step("sms", "text", 60));

  it("shows where a step would come to stand", () => {
    render(line(two, { onDrop: vi.fn() }));
    expect(over(150)).toEqual({ taken: true, at: "1" });
    expect(over(450)).toEqual({ taken: true, at: "4" });
    fireEvent.dragLeave(list());
    expect(list().querySelector("[data-over]")).toBeNull();
  });

  it("takes nothing before the first moment where that is at once, nothing beside it, and nothing else that is dragged", () => {
    render(line(two, { onDrop: vi.fn() }));
    expect(over(50)).toEqual({ taken: false, at: null });
    expect(over(9000)).toEqual({ taken: false, at: null });
    expect(over(150, ["text/plain"])).toEqual({ taken: false, at: null });
  });

  it("does nothing for who may not edit", () => {
    render(line(two));
    expect(over(150)).toEqual({ taken: false, at: null });
    expect(drawn("sms")).toHaveAttribute("draggable", "false");
  });

  it("is let go with the moment of the place", () => {
    const onDrop = vi.fn();
    render(line(two, { onDrop }));
    over(150);
    const event = createEvent.drop(list(), { dataTransfer: carries([]) });
    Object.defineProperty(event, "clientX", { value: 150 });
    fireEvent(list(), event);
    expect(onDrop).toHaveBeenCalledExactlyOnceWith("sms", "b1", { moment: inSeconds(0) });
    expect(list().querySelector("[data-over]")).toBeNull();
  });
});

describe("a ticket", () => {
  it("opens by a press, hands its keys on, and carries its id", () => {
    const [onOpen, onKey] = [vi.fn(), vi.fn()];
    render(line(band(step("sms", "text", 60)), { onOpen, onKey, onDrop: vi.fn() }));
    fireEvent.click(drawn("sms"));
    expect(onOpen).toHaveBeenCalledExactlyOnceWith("sms");
    fireEvent.keyDown(drawn("sms"), { key: "ArrowRight" });
    expect(onKey.mock.calls[0]?.[1]).toBe("sms");
    const data = { setData: vi.fn(), effectAllowed: "" };
    fireEvent.dragStart(drawn("sms"), { dataTransfer: data });
    expect(data.setData).toHaveBeenCalledWith("application/x-lit-fuse-step", "sms");
    expect(drawn("sms")).toHaveAttribute("aria-keyshortcuts", expect.stringContaining("Alt+ArrowLeft"));
  });
});
