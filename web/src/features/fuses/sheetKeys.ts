import type { KeyboardEvent } from "react";

/** What keys and the mouse do with the steps of a sheet. */
export type SheetEdits = {
  nudge: (stepId: string, arrow: "left" | "right" | "up" | "down") => void;
  drop: (stepId: string, bandId: string, column: number | null) => void;
  copy: (stepId: string) => void;
  cut: (stepId: string) => void;
  remove: (stepId: string) => void;
  paste: (bandId: string) => void;
  pasteBand: () => void;
  /** What a paste would put in, by name. */
  clip: { step?: string; band?: string };
};

const arrows = { ArrowLeft: "left", ArrowRight: "right", ArrowUp: "up", ArrowDown: "down" } as const;

const ticketsOf = (within: Element) => [...within.querySelectorAll<HTMLElement>("[data-step]")];

/** The ticket beside one in a direction: along the line of time by order, up and down by where it stands. */
function beside(ticket: HTMLElement, arrow: (typeof arrows)[keyof typeof arrows]): HTMLElement | undefined {
  const table = ticket.closest("table");
  if (!table) return undefined;
  const all = ticketsOf(table);
  if (arrow === "left" || arrow === "right") return all[all.indexOf(ticket) + (arrow === "right" ? 1 : -1)];
  const rows = [...table.querySelectorAll("tr")].filter((r) => ticketsOf(r).length > 0);
  const row = rows[rows.indexOf(ticket.closest("tr") as HTMLTableRowElement) + (arrow === "down" ? 1 : -1)];
  const x = ticket.getBoundingClientRect().left;
  return (
    row && ticketsOf(row).sort((a, b) => Math.abs(a.getBoundingClientRect().left - x) - Math.abs(b.getBoundingClientRect().left - x))[0]
  );
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
