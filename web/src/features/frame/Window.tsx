import { Box } from "@chakra-ui/react";
import { type ReactNode, useEffect, useRef } from "react";

/** A dialog on the browser's own element: focus is held inside, Esc closes, focus goes back where it was. */
export function Window({ label, onClose, children }: { label: string; onClose: () => void; children: ReactNode }) {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const shown = dialog.current;
    shown?.showModal();
    return () => shown?.close();
  }, []);
  return (
    <Box
      asChild
      bg="card"
      color="ink"
      borderWidth="1px"
      borderColor="ink"
      borderRadius="sm"
      p="0"
      width="min(560px, calc(100vw - 32px))"
      maxH="70vh"
      mt="12vh"
      mx="auto"
      css={{ "&::backdrop": { background: "rgba(20, 22, 23, 0.45)" } }}
    >
      <dialog
        ref={dialog}
        // biome-ignore lint/a11y/noRedundantRoles: the page's own keys look for it
        role="dialog"
        aria-label={label}
        onCancel={(event) => {
          event.preventDefault();
          onClose();
        }}
        onMouseDown={(event) => event.target === dialog.current && onClose()}
      >
        {children}
      </dialog>
    </Box>
  );
}
