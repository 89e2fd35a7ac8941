/** How long things are under way, on one bent line: 0 – 1 s – 10 s – 1 min – 10 min – 1 h. */
const stops = [0, 1, 10, 60, 600, 3600] as const;

/** Where a span of seconds stands, from 0 to 1. */
export function wayPlace(seconds: number): number {
  const s = Math.max(0, seconds);
  for (let i = 1; i < stops.length; i++) {
    const [from, to] = [stops[i - 1] as number, stops[i] as number];
    if (s <= to) return (i - 1 + (s - from) / (to - from)) / (stops.length - 1);
  }
  return 1;
}

/** The highest of the days, at least one, so that a quiet form draws low. */
export const highest = (days: readonly number[]) => Math.max(1, ...days);
