import { Box } from "@chakra-ui/react";
import { Button } from "@/ui/Button";
import { SideSheet } from "@/ui/SideSheet";
import type { SideProps } from "./RunSheetPage";

type WrongProps = SideProps & { onBand: (id: string) => void; onStep: (id: string) => void; onLit: () => void };

/** Every fault that keeps the fuse from being armed, each leading to its place. */
export function WrongSheet({ whole, draft, close, onBand, onStep, onLit }: WrongProps) {
  return (
    <SideSheet title="What's wrong" close={close}>
      {draft.dirty && (
        <Box fontSize="13px" color="ink2" mb="3">
          As last saved. Saving the draft looks again.
        </Box>
      )}
      {whole.faults.length === 0 && <Box>Nothing. It can be armed as it stands.</Box>}
      <Box as="ul" listStyleType="none">
        {whole.faults.map((f) => (
          <Box as="li" key={`${f.bandId}${f.stepId}${f.what}`} borderTopWidth="1px" py="2">
            <Box fontWeight={600}>{f.what}</Box>
            <Box color="ink2" fontSize="14px">
              {f.mend}
            </Box>
            <Button look="quiet" fontSize="13px" onClick={() => (f.stepId ? onStep(f.stepId) : f.bandId ? onBand(f.bandId) : onLit())}>
              Go there
            </Button>
          </Box>
        ))}
      </Box>
    </SideSheet>
  );
}
