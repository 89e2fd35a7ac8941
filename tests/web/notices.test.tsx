import { useQueryClient } from "@tanstack/react-query";
import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { NoticesPage } from "@/features/notices/NoticesPage";
import { keepNoticeChoices, noticeChoices } from "@/features/notices/noticeChoices";
import { useAnnounced } from "@/features/notices/useAnnounced";
import { show } from "./show";

/** Notices, and how they make themselves known. */

const notice = (id: string, more: Partial<Schemas["NoticeRow"]> = {}): Schemas["NoticeRow"] => ({
  id,
  leadId: "l1",
  formId: null,
  about: "Ines Calloway",
  words: `${id} waits`,
  at: "2026-11-25T09:40:00Z",
  readAt: null,
  ...more,
});
const list = (...notices: Schemas["NoticeRow"][]) => ({ notices, unread: notices.filter((n) => !n.readAt).length });

// What the browser was asked to do.
const made = { tones: 0, shown: [] as { title: string; tag: string; click: () => void }[] };
class Sound {
  currentTime = 0;
  destination = {};
  createGain = () => ({ connect: vi.fn(), gain: { setValueAtTime: vi.fn() } });
  createOscillator = () => {
    made.tones += 1;
    return { frequency: {}, connect: vi.fn(), start: vi.fn(), stop: vi.fn() };
  };
  close = vi.fn();
}
class Shown {
  static permission = "granted";
  static requestPermission = vi.fn(async () => Shown.permission);
  onclick = () => {};
  close = vi.fn();
  constructor(title: string, { tag }: { tag: string }) {
    made.shown.push({ title, tag, click: () => this.onclick() });
  }
}

beforeEach(() => {
  localStorage.clear();
  made.tones = 0;
  made.shown = [];
  Shown.permission = "granted";
  vi.stubGlobal("AudioContext", Sound);
  vi.stubGlobal("Notification", Shown);
  vi.stubGlobal("focus", vi.fn());
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

describe("the page", () => {
  test("lists them, newest first as they come, and marks them read", async () => {
    const answers: Record<string, unknown> = {
      "GET /api/notices": list(notice("n2"), notice("n1", { readAt: "2026-11-25T09:41:00Z" })),
      "POST /api/notices/read": null,
    };
    const asked = show(<NoticesPage />, { answers });
    expect((await screen.findAllByRole("listitem")).map((l) => l.textContent)).toEqual([
      expect.stringContaining("n2 waits"),
      expect.stringContaining("n1 waits"),
    ]);
    expect(screen.getAllByRole("link", { name: "Ines Calloway" })[0]).toHaveAttribute("href", "/leads/l1");
    await userEvent.click(screen.getByRole("button", { name: "I have read them" }));
    await waitFor(() => expect(asked.some((a) => a.method === "POST" && a.path === "/api/notices/read")).toBe(true));
  });

  test("says what will be here", async () => {
    show(<NoticesPage />, { answers: { "GET /api/notices": list() } });
    expect(await screen.findByText("No notice yet.")).toBeInTheDocument();
    expect(screen.queryByRole("button", { name: "I have read them" })).not.toBeInTheDocument();
  });

  test("a sound is chosen, heard at once, and kept on this device", async () => {
    show(<NoticesPage />, { answers: { "GET /api/notices": list() } });
    await userEvent.click(screen.getByLabelText("a sound with each"));
    expect([made.tones, noticeChoices()]).toEqual([2, { sound: true, outside: false }]);
    await userEvent.click(screen.getByLabelText("a sound with each"));
    expect([made.tones, noticeChoices().sound]).toEqual([2, false]);
  });

  test("to be shown outside is asked of the browser, and what it refuses is said", async () => {
    show(<NoticesPage />, { answers: { "GET /api/notices": list() } });
    const outside = screen.getByLabelText(/shown by the browser/);
    Shown.permission = "denied";
    await userEvent.click(outside);
    expect(await screen.findByRole("alert")).toHaveTextContent("The browser does not allow it.");
    expect(outside).not.toBeChecked();
    Shown.permission = "granted";
    await userEvent.click(outside);
    await waitFor(() => expect(outside).toBeChecked());
    expect(screen.queryByRole("alert")).not.toBeInTheDocument();
  });

  test("where the browser shows nothing, that is not offered", () => {
    vi.stubGlobal("Notification", undefined);
    Reflect.deleteProperty(globalThis, "Notification");
    show(<NoticesPage />, { answers: { "GET /api/notices": list() } });
    expect(screen.queryByLabelText(/shown by the browser/)).not.toBeInTheDocument();
  });
});

describe("a notice that comes", () => {
  function Listening() {
    useAnnounced();
    const queries = useQueryClient();
    return (
      <button type="button" onClick={() => void queries.invalidateQueries({ queryKey: ["notices"] })}>
        the live line tells of one
      </button>
    );
  }
  async function comes(first: Schemas["NoticeList"], then: Schemas["NoticeList"]) {
    const answers: Record<string, unknown> = { "GET /api/notices": first };
    const asked = show(<Listening />, { path: "/here", at: "/here", answers });
    await waitFor(() => expect(asked).toHaveLength(1));
    await act(async () => {});
    answers["GET /api/notices"] = then;
    fireEvent.click(screen.getByRole("button"));
    await waitFor(() => expect(asked).toHaveLength(2));
    await act(async () => {});
  }
  const hidden = (is: boolean) => vi.spyOn(document, "hidden", "get").mockReturnValue(is);

  test("makes no sound and is shown nowhere until that is chosen", async () => {
    hidden(true);
    await comes(list(), list(notice("n1")));
    expect([made.tones, made.shown]).toEqual([0, []]);
  });

  test("sounds once, however many come together; what was there before is no news", async () => {
    keepNoticeChoices({ sound: true });
    await comes(list(notice("n1")), list(notice("n3"), notice("n2"), notice("n1")));
    expect(made.tones).toBe(2);
  });

  test("that was read elsewhere meanwhile is no news", async () => {
    keepNoticeChoices({ sound: true });
    await comes(list(), list(notice("n1", { readAt: "2026-11-25T09:41:00Z" })));
    expect(made.tones).toBe(0);
  });

  test("is shown by the browser while another window is in front, and leads to the lead", async () => {
    keepNoticeChoices({ outside: true });
    hidden(true);
    await comes(list(notice("n1")), list(notice("n2"), notice("n1")));
    expect(made.shown.map((s) => [s.title, s.tag])).toEqual([["Ines Calloway", "n2"]]);
    act(() => made.shown[0]?.click());
    expect(await screen.findByText("elsewhere")).toBeInTheDocument();
  });

  test("is not shown by the browser over the page itself", async () => {
    keepNoticeChoices({ outside: true });
    hidden(false);
    await comes(list(), list(notice("n1")));
    expect(made.shown).toEqual([]);
  });

  test("is not shown by the browser where that was forbidden since", async () => {
    keepNoticeChoices({ outside: true });
    hidden(true);
    Shown.permission = "denied";
    await comes(list(), list(notice("n1")));
    expect(made.shown).toEqual([]);
  });
});

test("choices that cannot be read are none", () => {
  localStorage.setItem("lit-fuse.notices", "{");
  expect(noticeChoices()).toEqual({ sound: false, outside: false });
});
