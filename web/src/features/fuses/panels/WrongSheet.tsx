import { Box } from "@chakra-ui/react";
import type { Schemas } from "@/api/client";
import type { SideProps } from "@/features/fuses/model/sheetProps";
import { Button } from "@/ui/Button";
import { SideSheet } from "@/ui/SideSheet";

type WrongProps = SideProps & { onBand: (id: string) => void; onStep: (id: string) => void; onLit: () => void };

/** Every fault that keeps the fuse from being armed, and what is worth a look; each leads to its place. */
export function WrongSheet({ whole, draft, close, onBand, onStep, onLit }: WrongProps) {
  const blocking = whole.faults.filter((f) => f.blocks);
  const doubts = whole.faults.filter((f) => !f.blocks);
  const go = (f: Schemas["FuseFault"]) => (f.stepId ? onStep(f.stepId) : f.bandId ? onBand(f.bandId) : onLit());
  return (
    <SideSheet title="What's wrong" close={close}>
      {draft.dirty && (
        <Box fontSize="13px" color="ink2" mb="3">
          As last saved. Saving the draft looks again.
        </Box>
      )}
      {blocking.length === 0 && (
        <Box mb="3">{doubts.length === 0 ? "Nothing. It can be armed as it stands." : "It can be armed as it stands."}</Box>
      )}
      <Faults of={blocking} go={go} />
      {doubts.length > 0 && (
        <Box fontSize="13px" color="ink2" mt={blocking.length > 0 ? "4" : "0"} mb="1">
          Worth a look
        </Box>
      )}
      <Faults of={doubts} go={go} />
    </SideSheet>
  );
}

function Faults({ of, go }: { of: Schemas["FuseFault"][]; go: (fault: Schemas["FuseFault"]) => void }) {
  return (
    <Box as="ul" listStyleType="none">
      {of.map((f) => (
        <Box as="li" key={`${f.bandId}${f.stepId}${f.what}`} borderTopWidth="1px" py="2">
          <Box fontWeight={600}>{f.what}</Box>
          <Box color="ink2" fontSize="14px">
            {f.mend}
          </Box>
          <Button look="quiet" fontSize="13px" onClick={() => go(f)}>
            Go there
          </Button>
        </Box>
      ))}
    </Box>
  );
}
