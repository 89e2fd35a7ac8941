import { useEffect, useState } from "react";

// The server's clock counts: a screen whose own is wrong must not make a lead look late.
let offset = 0;

/** Notes the server's present moment, as an answer told it. */
export function noteServerNow(iso: string) {
  const told = Date.parse(iso);
  if (Number.isFinite(told)) offset = told - Date.now();
}

/** The server's present moment in milliseconds since 1970. */
export const serverNow = () => Date.now() + offset;

/** The server's present moment, again every so many milliseconds. */
export function useNow(everyMs: number) {
  const [now, setNow] = useState(serverNow);
  useEffect(() => {
    const timer = setInterval(() => setNow(serverNow()), everyMs);
    return () => clearInterval(timer);
  }, [everyMs]);
  return now;
}
