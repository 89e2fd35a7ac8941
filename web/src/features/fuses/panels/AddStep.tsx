import { Box } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "@/api/client";
import { laneWords } from "@/features/fuses/model/sheetLayout";
import { Button } from "@/ui/Button";

/** Adds a step to a band: of any kind, or the one that was copied. */
export function AddStep({
  band,
  kinds,
  onAdd,
  clip,
  onPaste,
}: {
  band: string;
  kinds: readonly Schemas["ContextStepKind"][];
  onAdd: (kind: Schemas["ContextStepKind"]) => void;
  clip: string | undefined;
  onPaste: () => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Box fontSize="13px" flexBasis={open ? "100%" : "auto"} order={open ? 1 : 0}>
      <Button
        look="quiet"
        fontSize="13px"
        fontWeight={400}
        color="ink2"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
        aria-label={`Add a step to ${band}`}
      >
        {open ? "not now" : "add a step"}
      </Button>
      {clip && !open && (
        <Button
          look="quiet"
          fontSize="13px"
          fontWeight={400}
          color="ink2"
          ml="3"
          aria-label={`Paste ${clip} into ${band}`}
          onClick={onPaste}
        >
          paste “{clip}”
        </Button>
      )}
      {open &&
        (["lead", "team", "systems", "silent"] as const).map((lane) => (
          <Box key={lane} role="group" aria-label={laneWords[lane]} display="flex" gap="2" flexWrap="wrap" alignItems="center" mb="2">
            <Box w="64px" color="ink2">
              {laneWords[lane]}
            </Box>
            {kinds
              .filter((kind) => kind.lane === lane)
              .map((kind) => (
                <Button
                  key={kind.key}
                  look="soft"
                  size="small"
                  onClick={() => {
                    setOpen(false);
                    onAdd(kind);
                  }}
                >
                  {kind.label}
                </Button>
              ))}
          </Box>
        ))}
    </Box>
  );
}
