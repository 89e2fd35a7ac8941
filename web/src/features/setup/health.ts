import type { Schemas } from "@/api/client";
import { secondsBetween, span } from "@/ui/time";

/** How deliveries through a connection went in the last 24 hours, in a sentence or two. */
export function healthWords(health: Schemas["ConnectionHealth"] | null, now: number): string | null {
  if (!health) return null;
  const { taken, failed, waiting, medianMs, lastGood } = health;
  const parts: string[] = [];
  if (taken + failed === 0) parts.push("Nothing went through in 24 h.");
  else {
    const quick =
      medianMs == null ? "" : medianMs < 1000 ? `, ${Math.round(medianMs)} ms as a rule` : `, ${span(medianMs / 1000)} as a rule`;
    parts.push(`${taken.toLocaleString("en-GB")} taken in 24 h${quick}.`);
  }
  if (failed > 0) parts.push(`${failed.toLocaleString("en-GB")} failed (${Math.round((100 * failed) / (taken + failed))} %).`);
  if (waiting > 0) parts.push(`${waiting.toLocaleString("en-GB")} waiting.`);
  if (lastGood) parts.push(`Last good ${span(Math.max(0, secondsBetween(lastGood, now)))} ago.`);
  return parts.join(" ");
}
