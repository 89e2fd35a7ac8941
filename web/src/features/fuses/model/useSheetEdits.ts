import { useState } from "react";
import { withoutStep } from "./editing";
import { withDropped, withNudged, withPastedBand, withPastedStep } from "./moving";
import { focusTicket, type SheetEdits } from "./sheetKeys";
import { type Definition, sayMoment } from "./sheetLayout";
import { keepClip, useClip } from "./useClip";
import type { Draft } from "./useFuse";

/** Moving, copying, cutting and pasting on the sheet, and what is said of it to who does not see it. */
export function useSheetEdits(
  draft: Draft,
  open: (what: "step" | "band" | null, id?: string) => void,
): { edits: SheetEdits; said: string } {
  const clip = useClip();
  const [said, setSaid] = useState("");
  const definition = draft.state.present;
  const stepOf = (id: string, of: Definition = definition) => of.bands.flatMap((b) => b.steps).find((s) => s.id === id);
  const moved = (to: Definition, stepId: string, typing?: string) => {
    if (to === definition) return;
    draft.act({ type: "edit", to, typing });
    const step = stepOf(stepId, to);
    const band = to.bands.find((b) => b.steps.some((s) => s.id === stepId));
    if (step) setSaid(`${step.name}: ${sayMoment(step.moment)}, in ${band?.name}`);
    focusTicket(stepId);
  };
  const takeOut = (stepId: string, word: string) => {
    const name = stepOf(stepId)?.name;
    draft.act({ type: "edit", to: withoutStep(definition, stepId) });
    open(null);
    setSaid(`${name} was ${word}`);
  };
  const edits: SheetEdits = {
    // One press after another is one step back.
    nudge: (stepId, arrow) => moved(withNudged(definition, stepId, arrow), stepId, `${stepId}.${arrow}`),
    drop: (stepId, bandId, drop) => moved(withDropped(definition, stepId, bandId, drop), stepId),
    copy: (stepId) => {
      const step = stepOf(stepId);
      if (!step) return;
      keepClip({ step });
      setSaid(`${step.name} was copied`);
    },
    cut: (stepId) => {
      const step = stepOf(stepId);
      if (!step) return;
      keepClip({ step });
      takeOut(stepId, "cut");
    },
    remove: (stepId) => takeOut(stepId, "taken out"),
    paste: (bandId) => {
      if (!clip || !("step" in clip)) return;
      const pasted = withPastedStep(definition, bandId, clip.step);
      moved(pasted.definition, pasted.id);
    },
    pasteBand: () => {
      if (!clip || !("band" in clip)) return;
      const pasted = withPastedBand(definition, clip.band);
      draft.act({ type: "edit", to: pasted.definition });
      open("band", pasted.id);
    },
    clip: clip ? ("step" in clip ? { step: clip.step.name } : { band: clip.band.name }) : {},
  };
  return { edits, said };
}
