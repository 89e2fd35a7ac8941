import { act, renderHook } from "@testing-library/react";
import { expect, it } from "vitest";
import { useDraftOf } from "@/ui/useDraftOf";

it("what is unsaved stays when another part of the page is saved, and what is not changed follows", () => {
  const { result, rerender } = renderHook(({ saved }) => useDraftOf(saved), { initialProps: { saved: { kind: "junk", from: 60 } } });
  rerender({ saved: { kind: "junk", from: 70 } });
  expect([result.current.draft, result.current.changed]).toEqual([{ kind: "junk", from: 70 }, false]);
  act(() => result.current.setDraft({ kind: "all", from: 70 }));
  // The page was read anew, with the same and with another.
  rerender({ saved: { kind: "junk", from: 70 } });
  expect([result.current.draft, result.current.changed]).toEqual([{ kind: "all", from: 70 }, true]);
  rerender({ saved: { kind: "junk", from: 80 } });
  expect([result.current.draft, result.current.changed]).toEqual([{ kind: "all", from: 70 }, true]);
  act(() => result.current.putBack());
  expect([result.current.draft, result.current.changed]).toEqual([{ kind: "junk", from: 80 }, false]);
});

it("what was saved is what is saved", () => {
  const { result, rerender } = renderHook(({ saved }) => useDraftOf(saved), { initialProps: { saved: "one" } });
  act(() => result.current.setDraft("two"));
  rerender({ saved: "two" });
  expect([result.current.draft, result.current.changed]).toEqual(["two", false]);
  rerender({ saved: "three" });
  expect(result.current.draft).toBe("three");
});
