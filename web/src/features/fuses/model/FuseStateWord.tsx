import type { Schemas } from "@/api/client";
import { State } from "@/ui/Page";

/** Whether a fuse can be lit, as a word. */
export function FuseStateWord({ fuse }: { fuse: Schemas["FuseRow"] }) {
  const version = fuse.armedVersion ? ` · v${fuse.armedVersion}` : "";
  return (
    <>
      <State of={fuse.state === "armed" ? "whole" : "waiting"}>
        {fuse.state}
        {fuse.state === "draft" ? "" : version}
      </State>
      {fuse.draftDiffers && <> draft differs</>}
    </>
  );
}
