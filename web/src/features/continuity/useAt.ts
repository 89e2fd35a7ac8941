import { useEffect } from "react";
import { useSearchParams } from "react-router";

/** Brings the part of a page that the address names (`?at=…`) into view, once it is there: a mend's link opens the very place. */
export function useAt(ready: boolean) {
  const [search] = useSearchParams();
  const at = search.get("at");
  useEffect(() => {
    if (!ready || !at) return;
    const place = document.getElementById(at);
    if (!place) return;
    place.scrollIntoView({ block: "center" });
    place.setAttribute("data-here", "");
    place.setAttribute("tabindex", "-1");
    place.focus({ preventScroll: true });
  }, [at, ready]);
}
