import type { KeyboardEvent } from "react";
import type { Drop } from "./moving";

/** What keys and the mouse do with the steps of a sheet. */
export type SheetEdits = {
  nudge: (stepId: string, arrow: "left" | "right" | "up" | "down") => void;
  drop: (stepId: string, bandId: string, drop: Drop) => void;
  copy: (stepId: string) => void;
  cut: (stepId: string) => void;
  remove: (stepId: string) => void;
  paste: (bandId: string) => void;
  pasteBand: () => void;
  /** What a paste would put in, by name. */
  clip: { step?: string; band?: string };
};

const arrows = { ArrowLeft: "left", ArrowRight: "right", ArrowUp: "up", ArrowDown: "down" } as const;

/** The ticket beside one in a direction, as they stand on the sheet: along its line, or the nearest above or below. */
function beside(ticket: HTMLElement, arrow: (typeof arrows)[keyof typeof arrows]): HTMLElement | undefined {
  const sheet = ticket.closest("[data-sheet]");
  if (!sheet) return undefined;
  const all = [...sheet.querySelectorAll<HTMLElement>("[data-step]")];
  if (arrow === "left" || arrow === "right") return all[all.indexOf(ticket) + (arrow === "right" ? 1 : -1)];
  const from = ticket.getBoundingClientRect();
  const away = (to: DOMRect) => (arrow === "down" ? to.top - from.bottom : from.top - to.bottom);
  return all
    .map((t) => ({ t, at: t.getBoundingClientRect() }))
    .filter(({ t, at }) => t !== ticket && away(at) >= 0)
    .sort((a, b) => away(a.at) + Math.abs(a.at.left - from.left) / 4 - away(b.at) - Math.abs(b.at.left - from.left) / 4)[0]?.t;
}

/** Arrows go from ticket to ticket; with Alt they move the step; copy, cut, paste and delete as everywhere. */
export function ticketKey(event: KeyboardEvent<HTMLElement>, stepId: string, bandId: string, edits: SheetEdits | null) {
  const arrow = arrows[event.key as keyof typeof arrows];
  const command = event.ctrlKey || event.metaKey;
  if (arrow && !event.altKey && !command) beside(event.currentTarget, arrow)?.focus();
  else if (!edits) return;
  else if (arrow && event.altKey) edits.nudge(stepId, arrow);
  else if (event.key === "Delete") edits.remove(stepId);
  else if (command && event.key.toLowerCase() === "c") edits.copy(stepId);
  else if (command && event.key.toLowerCase() === "x") edits.cut(stepId);
  else if (command && event.key.toLowerCase() === "v") edits.paste(bandId);
  else return;
  event.preventDefault();
  event.stopPropagation();
}

/** Focus on a ticket once it stands where it was moved to. */
export const focusTicket = (stepId: string) =>
  requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-step="${CSS.escape(stepId)}"]`)?.focus());
