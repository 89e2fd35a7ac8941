/**
 * The bent axis of the burn line: the first seconds can be seen, and targets of different clients line up.
 * 0–10 s, –1 min, – the row's own target, – twice the target, beyond (which never quite reaches the end).
 */
export const marks = { tenSeconds: 0.2, minute: 0.42, target: 0.76, twice: 0.93 } as const;

/** Where on the line (0 to 1) a moment so many seconds after the submission lies, for a target so many seconds after it. */
export function placeOf(seconds: number, targetSeconds: number): number {
  if (!(seconds > 0)) return 0;
  const target = Math.max(targetSeconds, 1);
  const stops: [number, number][] = [[0, 0]];
  if (target > 10) stops.push([10, marks.tenSeconds]);
  if (target > 60) stops.push([60, marks.minute]);
  stops.push([target, marks.target], [2 * target, marks.twice]);
  for (let i = 1; i < stops.length; i++) {
    const [from, fromPlace] = stops[i - 1] as [number, number];
    const [to, toPlace] = stops[i] as [number, number];
    if (seconds <= to) return fromPlace + ((seconds - from) / (to - from)) * (toPlace - fromPlace);
  }
  const beyond = seconds / (2 * target);
  return marks.twice + (1 - marks.twice) * (1 - 1 / beyond);
}
