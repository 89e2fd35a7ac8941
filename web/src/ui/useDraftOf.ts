import { useEffect, useRef, useState } from "react";

/**
 * A part of a page as it is being changed, beside what is saved. What is saved elsewhere is taken over while nothing here
 * differs; what is unsaved stays, whatever other part of the page was saved.
 */
export function useDraftOf<T>(saved: T) {
  const [draft, setDraft] = useState(saved);
  const before = useRef(JSON.stringify(saved));
  const now = JSON.stringify(saved);
  useEffect(() => {
    if (now === before.current) return;
    const was = before.current;
    before.current = now;
    setDraft((d) => (JSON.stringify(d) === was ? (JSON.parse(now) as T) : d));
  }, [now]);
  return { draft, setDraft, changed: JSON.stringify(draft) !== now, putBack: () => setDraft(saved) };
}
