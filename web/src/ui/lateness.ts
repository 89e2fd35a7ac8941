import { runningSpan, secondsBetween, span } from "./time";

/** What tells whether somebody was reached in time. `firstTouchAt` is empty while they wait. */
export type Awaited = { askedAt: string; targetAt: string; firstTouchAt?: string | null };

/**
 * Whether a lead is or was late, once for every place that shows it: past its target without a first touch, or touched
 * after it. The server counts by the same rule (`LeadFilter` and the Watch). Moments are compared as moments: as text,
 * half a second past the full one would come before it.
 */
export function latenessOf(lead: Awaited, now: number) {
  const until = lead.firstTouchAt ?? now;
  const left = secondsBetween(until, lead.targetAt);
  return {
    /** Seconds from the submission to the first touch, or to now. */
    waited: secondsBetween(lead.askedAt, until),
    /** Seconds that were or are left to the target; below 0: so long past it. */
    left,
    late: left < 0,
    touched: Boolean(lead.firstTouchAt),
  };
}

/** While they wait: `5 min 42 s late`, `1 min 3 s left`. */
export const toTarget = (left: number) => (left < 0 ? `${runningSpan(-left)} late` : `${runningSpan(left)} left`);

/** In a list, while they wait: `late, 12 min`, `in the air, 40 s`. */
export const standing = (late: boolean, waited: number) => `${late ? "late" : "in the air"}, ${span(waited)}`;
