import { Box, chakra } from "@chakra-ui/react";
import { type KeyboardEvent, memo, type ReactNode } from "react";
import { type Step, ticketWords } from "./sheetLayout";

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
    <chakra.button
      type="button"
      onClick={() => onOpen(step.id)}
      onKeyDown={(e) => onKey(e, step.id)}
      draggable={movable}
      onDragStart={(e) => {
        e.dataTransfer.setData(dragged, step.id);
        e.dataTransfer.effectAllowed = "move";
      }}
      data-step={step.id}
      aria-keyshortcuts={
        movable ? "Alt+ArrowLeft Alt+ArrowRight Alt+ArrowUp Alt+ArrowDown Delete Control+C Control+X Control+V" : undefined
      }
      aria-expanded={open}
      textAlign="left"
      cursor="pointer"
      borderWidth="1px"
      borderColor={faulty ? "cinder" : dim ? "line" : "ink"}
      borderStyle={dim ? "dashed" : "solid"}
      borderRadius="sm"
      bg={open ? "sulphur" : "paper"}
      color={open ? "charcoal" : "ink"}
      px="2"
      py="1"
      maxW="210px"
      _hover={{ bg: open ? "sulphur" : "shade" }}
    >
      <Box fontSize="13px" fontWeight={600} lineHeight="17px">
        {step.name}
        {faulty && (
          <Box as="span" color="cinder">
            {" ▲"}
          </Box>
        )}
      </Box>
      <Box fontSize="12px" lineHeight="16px" color={open ? "charcoal" : "ink2"} truncate>
        {ticketWords(step)}
      </Box>
      {notes && (
        <Box fontSize="12px" lineHeight="16px" fontStyle="italic" color={open ? "charcoal" : "ink2"}>
          {notes}
        </Box>
      )}
      {stamp}
    </chakra.button>
  );
});
