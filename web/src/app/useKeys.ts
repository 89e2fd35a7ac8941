import { useEffect, useRef } from "react";

const writes = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName));

/** Keys that hold on every page: Ctrl or ⌘ K, and `?`. */
export function useGlobalKeys(does: { go: () => void; keys: () => void }) {
  const latest = useRef(does);
  latest.current = does;
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k") {
        event.preventDefault();
        latest.current.go();
      } else if (event.key === "?" && !writes(event.target)) {
        event.preventDefault();
        latest.current.keys();
      }
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}

/** Keys of a page, by what they are; silent while someone writes or a dialog is open. */
export function usePageKeys(keys: Record<string, () => void>) {
  const latest = useRef(keys);
  latest.current = keys;
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || writes(event.target) || document.querySelector("[role=dialog]")) return;
      const does = latest.current[event.key];
      if (!does) return;
      event.preventDefault();
      does();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}
