import { Box, chakra } from "@chakra-ui/react";
import { type DragEvent, type KeyboardEvent, type ReactNode, useCallback, useRef, useState } from "react";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { AddStep } from "./AddStep";
import { BandLine } from "./BandLine";
import type { Drop } from "./moving";
import { type SheetEdits, ticketKey } from "./sheetKeys";
import { type Band, type Definition, entrySentence, type Step } from "./sheetLayout";
import { dragged } from "./Ticket";
import { times } from "./words";

type RunSheetProps = {
  whole: Pick<Schemas["FuseWhole"], "around" | "faults"> & { counts: Schemas["FuseWhole"]["counts"] | null };
  definition: Definition;
  mayEdit: boolean;
  openStep: string | undefined;
  openBand: string | undefined;
  onStep: (id: string) => void;
  onBand: (id: string) => void;
  onAddStep: (bandId: string, kind: Schemas["AroundStepKind"]) => void;
  onAddBand: () => void;
  /** Moving, copying, cutting; `null` where it may not be edited. */
  edits?: SheetEdits | null;
  /** What a dry run or a backtest made of its bands and steps, where one is being looked at. */
  stamps?: Stamps | null;
};

/** What stands on a band or a step. */
export type Stamps = { band: (id: string) => ReactNode; step: (id: string) => ReactNode; reached: (id: string) => boolean };

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
  const { kinds } = whole.around;
  const faulty = new Set(whole.faults.filter((f) => f.blocks).map((f) => f.stepId ?? f.bandId));
  return (
    <Box data-sheet role="group" aria-label="Run sheet">
      {definition.bands.map((band) => (
        <Box key={band.id} as="section" aria-label={band.name} borderTopWidth="1px" borderColor="ink">
          <BandHead
            band={band}
            definition={definition}
            whole={whole}
            open={openBand === band.id}
            faulty={faulty.has(band.id)}
            onOpen={() => onBand(band.id)}
            onDrop={edits ? (stepId) => edits.drop(stepId, band.id, null) : null}
            stamp={stamps?.band(band.id) ?? null}
            adding={
              mayEdit ? (
                <AddStep
                  band={band.name}
                  kinds={kinds}
                  onAdd={(kind) => onAddStep(band.id, kind)}
                  clip={edits?.clip.step}
                  onPaste={() => edits?.paste(band.id)}
                />
              ) : null
            }
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
        </Box>
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

type BandHeadProps = {
  band: Band;
  definition: Definition;
  whole: RunSheetProps["whole"];
  open: boolean;
  faulty: boolean;
  onOpen: () => void;
  /** A step is let go on the band: it keeps its moment. */
  onDrop: ((stepId: string) => void) | null;
  stamp: ReactNode;
  adding: ReactNode;
};

// When a band is entered, as a sentence, and what came of it.
function BandHead({ band, definition, whole, open, faulty, onOpen, onDrop, stamp, adding }: BandHeadProps) {
  const [over, setOver] = useState(false);
  const dropping = onDrop && {
    onDragOver: (e: DragEvent) => {
      if (!e.dataTransfer.types.includes(dragged)) return;
      e.preventDefault();
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: (e: DragEvent) => {
      e.preventDefault();
      setOver(false);
      const id = e.dataTransfer.getData(dragged);
      if (id) onDrop(id);
    },
  };
  const aside = [
    band.entry.kind !== "always" && band.name,
    band.eachTime && "each time",
    band.entry.kind === "when" && definition.bandChoice === "first" && "only the first that holds",
  ].filter(Boolean);
  return (
    <Box
      bg="shade"
      px="2"
      py="1"
      display="flex"
      columnGap="3"
      alignItems="baseline"
      flexWrap="wrap"
      outline={over ? "2px solid" : undefined}
      outlineColor="ink"
      outlineOffset="-2px"
      {...dropping}
    >
      <chakra.h2 fontSize="15px" fontWeight={400}>
        <chakra.button
          type="button"
          onClick={onOpen}
          textAlign="left"
          cursor="pointer"
          aria-expanded={open}
          textDecoration={open ? "underline" : undefined}
          _hover={{ "& b": { borderBottomStyle: "solid" } }}
        >
          {entrySentence(band, whole.around, definition).map((part, i) =>
            part.strong ? (
              // biome-ignore lint/suspicious/noArrayIndexKey: parts of one sentence, in order
              <chakra.b key={i} borderBottomWidth="1px" borderBottomStyle="dotted" borderColor="ink">
                {part.text}
              </chakra.b>
            ) : (
              part.text
            ),
          )}
        </chakra.button>
      </chakra.h2>
      {aside.length > 0 && (
        <Box as="span" color="ink2" fontSize="13px">
          {aside.join(" · ")}
        </Box>
      )}
      {faulty && (
        <Box as="span" color="cinder" fontSize="13px">
          ▲ to mend
        </Box>
      )}
      {stamp}
      {adding}
      {whole.counts && !stamp && (
        <Box as="span" ml="auto" fontFamily="mono" fontSize="12px" color="ink2">
          lit {times(whole.counts.find((c) => c.band === band.name)?.litIn30Days ?? 0)} in 30 days
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
