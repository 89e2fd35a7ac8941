import { Box } from "@chakra-ui/react";
import { type KeyboardEvent, useCallback, useRef } from "react";
import type { Schemas } from "@/api/client";
import type { Drop } from "@/features/fuses/model/moving";
import { type SheetEdits, ticketKey } from "@/features/fuses/model/sheetKeys";
import { type Band, type Definition, entrySentence, type Step } from "@/features/fuses/model/sheetLayout";
import type { Stamps } from "@/features/fuses/model/stamps";
import { Button } from "@/ui/Button";
import { BandHead } from "./BandHead";
import { BandLine } from "./BandLine";

type RunSheetProps = {
  whole: Pick<Schemas["FuseDetail"], "around" | "faults"> & { counts: Schemas["FuseDetail"]["counts"] | null };
  definition: Definition;
  mayEdit: boolean;
  openStep: string | undefined;
  openBand: string | undefined;
  onStep: (id: string) => void;
  onBand: (id: string) => void;
  onAddStep: (bandId: string, kind: Schemas["ContextStepKind"]) => void;
  onAddBand: () => void;
  /** Moving, copying, cutting; `null` where it may not be edited. */
  edits?: SheetEdits | null;
  /** What a dry run or a backtest made of its bands and steps, where one is being looked at. */
  stamps?: Stamps | null;
};

/** What stands on a band or a step. */

/** Bands down; in each its lanes, and its own line of time across. Read by a screen reader it is a list of moments in their order. */
export function RunSheet({
  whole,
  definition,
  mayEdit,
  openStep,
  openBand,
  onStep,
  onBand,
  onAddStep,
  onAddBand,
  edits = null,
  stamps = null,
}: RunSheetProps) {
  const open = useStable(onStep);
  const press = useStable((event: KeyboardEvent<HTMLElement>, stepId: string) =>
    ticketKey(event, stepId, definition.bands.find((b) => b.steps.some((s) => s.id === stepId))?.id ?? "", edits),
  );
  const drop = useStable((stepId: string, bandId: string, to: Drop) => edits?.drop(stepId, bandId, to));
  const openHead = useStable(onBand);
  const add = useStable(onAddStep);
  const paste = useStable((bandId: string) => edits?.paste(bandId));
  const { kinds } = whole.around;
  const faulty = new Set(whole.faults.filter((f) => f.blocks).map((f) => f.stepId ?? f.bandId));
  return (
    <Box data-sheet role="group" aria-label="Run sheet">
      {definition.bands.map((band) => (
        <section key={band.id} className="band" aria-label={band.name}>
          <BandHead
            id={band.id}
            name={band.name}
            sentence={JSON.stringify(entrySentence(band, whole.around, definition))}
            aside={asideOf(band, definition)}
            kinds={kinds}
            open={openBand === band.id}
            faulty={faulty.has(band.id)}
            lit={whole.counts ? (whole.counts.find((c) => c.band === band.name)?.litIn30Days ?? 0) : null}
            onOpen={openHead}
            onDrop={edits ? drop : null}
            stamp={stamps?.band(band.id) ?? null}
            onAdd={mayEdit ? add : null}
            clip={edits?.clip.step}
            onPaste={paste}
          />
          <BandLine
            band={band}
            kinds={kinds}
            sendHours={whole.around.sendHours}
            openStep={band.steps.some((s) => s.id === openStep) ? openStep : undefined}
            faulty={band.steps
              .map((s) => s.id)
              .filter((id) => faulty.has(id))
              .join(" ")}
            notes={JSON.stringify(Object.fromEntries(band.steps.map((s) => [s.id, notesOf(s, band, definition)])))}
            onOpen={open}
            onKey={press}
            onDrop={edits ? drop : null}
            stamps={stamps}
          />
        </section>
      ))}
      {mayEdit && (
        <Box borderTopWidth="1px" borderColor="ink" pt="2" display="flex" gap="2">
          <Button look="soft" size="small" onClick={onAddBand}>
            Add a band
          </Button>
          {edits?.clip.band && (
            <Button look="quiet" fontSize="13px" fontWeight={400} onClick={edits.pasteBand}>
              Paste the band “{edits.clip.band}”
            </Button>
          )}
        </Box>
      )}
    </Box>
  );
}

// The same function from one drawing to the next, so that what has not changed is not drawn again.
function useStable<T extends unknown[]>(of: (...args: T) => void) {
  const latest = useRef(of);
  latest.current = of;
  return useCallback((...args: T) => latest.current(...args), []);
}

// What else is to be known of when a band is entered.
const asideOf = (band: Band, definition: Definition) =>
  [
    band.entry.kind !== "always" && band.name,
    band.eachTime && "each time",
    band.entry.kind === "when" && definition.bandChoice === "first" && "only the first that holds",
  ]
    .filter(Boolean)
    .join(" · ");

// Hours other than the usual ones of its lane.
function hoursWords({ hours }: Step): string {
  if (!hours) return "";
  const which = { send: "in send hours", working: "in working hours", own: `${hours.from}–${hours.to}`, none: "at any hour" }[hours.kind];
  return hours.outside === "skip" ? `${which}, else left out` : hours.outside === "send" ? `${which}, or all the same` : which;
}

// What a reader must know of a step beyond its words: what it waits for, its condition, that it only stands in.
function notesOf(step: Step, band: Band, definition: Definition): string {
  const steps = definition.bands.flatMap((b) => b.steps);
  const uses = [...new Set([...JSON.stringify(step.settings).matchAll(/steps\.([\w-]+)\./g)].map((m) => m[1]))].filter(
    (id) => id !== step.id,
  );
  const standsIn = band.steps.find((s) => s.onFailure?.next === "instead" && s.onFailure.step === step.id);
  return [
    ...uses.map((id) => `waits for ${steps.find((s) => s.id === id)?.name ?? id}`),
    step.when ? "only when …" : "",
    step.choices?.length ? `offers ${step.choices.length} choices` : "",
    hoursWords(step),
    standsIn ? `only if ${standsIn.name} fails` : "",
    step.onFailure?.next === "stop" ? "stops all if it fails" : step.onFailure?.next === "tell" ? "tells somebody if it fails" : "",
  ]
    .filter(Boolean)
    .join(" · ");
}
