import { type KeyboardEvent, memo, type ReactNode } from "react";
import { type Step, ticketWords } from "@/features/fuses/model/sheetLayout";

/** What a ticket that is dragged carries: the id of its step. */
export const dragged = "application/x-lit-fuse-step";

/** One step on the sheet, at its moment. */
export const Ticket = memo(function Ticket({
  step,
  notes,
  open,
  faulty,
  onOpen,
  onKey,
  movable,
  stamp,
  dim,
}: {
  step: Step;
  notes: string;
  open: boolean;
  faulty: boolean;
  onOpen: (id: string) => void;
  onKey: (event: KeyboardEvent<HTMLElement>, id: string) => void;
  movable: boolean;
  stamp: ReactNode;
  dim: boolean;
}) {
  return (
    <button
      type="button"
      className="ticket"
      onClick={() => onOpen(step.id)}
      onKeyDown={(e) => onKey(e, step.id)}
      draggable={movable}
      onDragStart={(e) => {
        e.dataTransfer.setData(dragged, step.id);
        e.dataTransfer.effectAllowed = "move";
      }}
      data-step={step.id}
      data-faulty={faulty || undefined}
      data-dim={dim || undefined}
      aria-keyshortcuts={
        movable ? "Alt+ArrowLeft Alt+ArrowRight Alt+ArrowUp Alt+ArrowDown Delete Control+C Control+X Control+V" : undefined
      }
      aria-expanded={open}
    >
      <b>
        {step.name}
        {faulty && <em> ▲</em>}
      </b>
      <span>{ticketWords(step)}</span>
      {notes && <i>{notes}</i>}
      {stamp}
    </button>
  );
});
