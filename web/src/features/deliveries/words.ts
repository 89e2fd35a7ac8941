import type { Schemas } from "@/api/client";
import { secondsBetween, span } from "@/ui/time";

type Row = Schemas["DeliveryRow"];

/** Where a delivery stands, in a word and how it is drawn. */
export function standing(row: Pick<Row, "status" | "attempts">): { word: string; of: "whole" | "broken" | "waiting" | "plain" } {
  switch (row.status) {
    case "done":
      return { word: "delivered", of: "whole" };
    case "failed":
      return { word: "failed", of: "broken" };
    case "cancelled":
      return { word: "cancelled", of: "plain" };
    case "sending":
      return { word: "sending", of: "waiting" };
    default:
      return row.attempts > 0 ? { word: "retrying", of: "broken" } : { word: "waiting", of: "waiting" };
  }
}

/** How long it took from the decision, or has waited, in words. */
export function howLong(row: Pick<Row, "status" | "madeAt" | "sentAt" | "dueAt" | "attempts">, now: number): string {
  if (row.status === "done" && row.sentAt) return `${span(secondsBetween(row.madeAt, row.sentAt))} after it was decided`;
  if (row.status === "due") {
    const left = secondsBetween(now, row.dueAt);
    const waits = `waits ${span(secondsBetween(row.madeAt, now))}`;
    return left > 1 ? `${waits}, next in ${span(left)}` : waits;
  }
  return "";
}

/** What a replay would do, in a sentence. */
export function replayWords(count: Schemas["DeliveriesReplayed"]): string {
  const parts: string[] = [];
  if (count.failed > 0) parts.push(`${count.failed.toLocaleString("en-GB")} that failed, each under the key it had`);
  if (count.taken > 0) parts.push(`${count.taken.toLocaleString("en-GB")} that had been delivered, each as another thing`);
  const sent = parts.length > 0 ? `Sends again ${parts.join(", and ")}.` : "None of these can be sent again.";
  return count.leftOut > 0
    ? `${sent} ${count.leftOut === 1 ? "1 stays as it is" : `${count.leftOut.toLocaleString("en-GB")} stay as they are`}.`
    : sent;
}

/** A body as people read it: JSON laid out, anything else as it is. */
export function laidOut(text: string | null): string {
  if (!text) return "";
  try {
    return JSON.stringify(JSON.parse(text), null, 2);
  } catch {
    return text;
  }
}
