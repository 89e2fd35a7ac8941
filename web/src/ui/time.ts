/** Distance and clock, the two ways in which times are told. */

const two = (n: number) => String(n).padStart(2, "0");

/** A span as people say it: `12 ms`, `1.2 s`, `41 s`, `9 m 12`, `3 h 05`, `4 days`. Never negative. */
export function span(seconds: number): string {
  const s = Math.max(0, seconds);
  if (s < 0.9995) return s < 0.0005 ? "0 s" : `${Math.round(s * 1000)} ms`;
  if (s < 9.95) return `${s.toFixed(1)} s`;
  if (s < 60) return `${Math.floor(s)} s`;
  if (s < 3600) return `${Math.floor(s / 60)} m ${two(Math.floor(s % 60))}`;
  if (s < 172_800) return `${Math.floor(s / 3600)} h ${two(Math.floor((s % 3600) / 60))}`;
  return `${Math.floor(s / 86_400)} days`;
}

/** A span in whole seconds below a minute, so that it does not flicker while it runs. */
export function runningSpan(seconds: number): string {
  const s = Math.max(0, seconds);
  return s < 60 ? `${Math.floor(s)} s` : span(s);
}

/** The clock in a zone: `09:41:07`. */
export function clock(at: string | number, zone: string, withSeconds = true): string {
  return new Intl.DateTimeFormat("en-GB", {
    timeZone: zone,
    hour: "2-digit",
    minute: "2-digit",
    ...(withSeconds ? { second: "2-digit" } : {}),
    hourCycle: "h23",
  }).format(typeof at === "string" ? Date.parse(at) : at);
}

/** The day in a zone, beside `now`: nothing for today, `yesterday`, else `Tue 3 Nov`. */
export function day(at: string, now: number, zone: string): string {
  const of = (t: number) => new Intl.DateTimeFormat("en-CA", { timeZone: zone }).format(t);
  const moment = Date.parse(at);
  if (of(moment) === of(now)) return "";
  if (of(moment) === of(now - 86_400_000)) return "yesterday";
  return new Intl.DateTimeFormat("en-GB", { timeZone: zone, weekday: "short", day: "numeric", month: "short" }).format(moment);
}

/** Day and clock together, the day left out when it is today. */
export function dayAndClock(at: string, now: number, zone: string, withSeconds = false): string {
  return [day(at, now, zone), clock(at, zone, withSeconds)].filter(Boolean).join(" ");
}

/** The clock when it was today, else only the day: for narrow places. */
export const dayOrClock = (at: string, now: number, zone: string) => day(at, now, zone) || clock(at, zone, false);

/** A zone's city, as people say it: `Europe/London` → `London`. */
export const cityOf = (zone: string) => (zone.split("/").at(-1) ?? zone).replaceAll("_", " ");

/** Seconds from one moment to another. */
export const secondsBetween = (from: string | number, to: string | number) =>
  ((typeof to === "string" ? Date.parse(to) : to) - (typeof from === "string" ? Date.parse(from) : from)) / 1000;
