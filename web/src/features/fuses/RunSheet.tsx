import { Box, chakra } from "@chakra-ui/react";
import { type DragEvent, type KeyboardEvent, type ReactNode, useCallback, useRef, useState } from "react";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { AddStep } from "./AddStep";
import { type SheetEdits, ticketKey } from "./sheetKeys";
import {
  type Band,
  columnFor,
  columnsOf,
  type Definition,
  entrySentence,
  lanesOf,
  laneWords,
  momentWords,
  onCalendar,
  roughly,
  type Step,
} from "./sheetLayout";
import { dragged, Ticket } from "./Ticket";
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

const th = { textAlign: "left" as const, fontWeight: 400, verticalAlign: "top", px: "2", py: "2" };

/** Bands down, lanes in them, time across. Read by a screen reader it is a table whose cells are in time order. */
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
  stamps,
}: RunSheetProps) {
  const columns = columnsOf(definition);
  const [over, setOver] = useState<string | null>(null);
  const open = useStable(onStep);
  const press = useStable((event: KeyboardEvent<HTMLElement>, stepId: string) =>
    ticketKey(event, stepId, definition.bands.find((b) => b.steps.some((s) => s.id === stepId))?.id ?? "", edits),
  );
  // Where a ticket can be let go: a moment of a band, or the band itself, where it keeps its moment.
  const target = (bandId: string, column: number | null) =>
    edits
      ? {
          onDragOver: (e: DragEvent) => {
            if (!e.dataTransfer.types.includes(dragged)) return;
            e.preventDefault();
            setOver(`${bandId} ${column}`);
          },
          onDragLeave: () => setOver(null),
          onDrop: (e: DragEvent) => {
            e.preventDefault();
            setOver(null);
            const id = e.dataTransfer.getData(dragged);
            if (id) edits.drop(id, bandId, column);
          },
          "data-over": over === `${bandId} ${column}` || undefined,
        }
      : {};
  const { kinds } = whole.around;
  const faulty = new Set(whole.faults.map((f) => f.stepId ?? f.bandId));
  // A moment at which nothing happens needs no more room than its name.
  const used = columns.map((_, i) => definition.bands.some((b) => b.steps.some((s) => columnFor(columns, roughly(s.moment)) === i)));
  return (
    <Box overflowX="auto">
      <chakra.table width="full" borderCollapse="collapse" css={{ tableLayout: "auto", minWidth: "620px" }} aria-label="Run sheet">
        <thead>
          <chakra.tr fontFamily="mono" fontSize="12px" color="ink2">
            <chakra.th {...th} width="74px" fontFamily="body">
              lane
            </chakra.th>
            {columns.map((c, i) => (
              <chakra.th
                key={c}
                scope="col"
                {...th}
                borderLeftWidth="1px"
                borderColor="line"
                whiteSpace="nowrap"
                width={used[i] ? undefined : "72px"}
              >
                {momentWords(c)}
              </chakra.th>
            ))}
          </chakra.tr>
        </thead>
        {definition.bands.map((band) => (
          <tbody key={band.id}>
            <chakra.tr borderTopWidth="1px" borderColor="ink" bg="shade" css={aimed} {...target(band.id, null)}>
              <chakra.th scope="rowgroup" colSpan={columns.length + 1} textAlign="left" px="2" py="1.5" fontWeight={400}>
                <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap">
                  <chakra.button
                    type="button"
                    onClick={() => onBand(band.id)}
                    textAlign="left"
                    cursor="pointer"
                    aria-expanded={openBand === band.id}
                    textDecoration={openBand === band.id ? "underline" : undefined}
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
                  {band.entry.kind !== "always" && (
                    <Box as="span" color="ink2" fontSize="13px">
                      {band.name}
                    </Box>
                  )}
                  {band.eachTime && (
                    <Box as="span" color="ink2" fontSize="13px">
                      each time
                    </Box>
                  )}
                  {band.entry.kind === "when" && definition.bandChoice === "first" && (
                    <Box as="span" color="ink2" fontSize="13px">
                      only the first that holds
                    </Box>
                  )}
                  {faulty.has(band.id) && (
                    <Box as="span" color="cinder" fontSize="13px">
                      ▲ to mend
                    </Box>
                  )}
                  {stamps?.band(band.id)}
                  {whole.counts && !stamps && (
                    <Box as="span" ml="auto" fontFamily="mono" fontSize="12px" color="ink2">
                      lit {times(whole.counts.find((c) => c.band === band.name)?.litIn30Days ?? 0)} in 30 days
                    </Box>
                  )}
                </Box>
              </chakra.th>
            </chakra.tr>
            {lanesOf(band, kinds).map(({ lane, steps }) => (
              <chakra.tr key={lane} borderTopWidth="1px" borderColor="line2" bg="card">
                <chakra.th scope="row" {...th} fontSize="13px" color="ink2">
                  {laneWords[lane]}
                  {lane === "lead" && (
                    <Box fontFamily="mono" fontSize="11px" whiteSpace="nowrap" title="Send hours, on the lead's own clock">
                      {whole.around.sendHours}
                    </Box>
                  )}
                </chakra.th>
                {columns.map((c, i) => (
                  <chakra.td
                    key={c}
                    borderLeftWidth="1px"
                    borderColor="line2"
                    verticalAlign="top"
                    p="1"
                    css={lane === "lead" && c >= 3600 ? { ...hatched, ...aimed } : aimed}
                    {...target(band.id, c)}
                  >
                    <Box display="flex" flexWrap="wrap" gap="1">
                      {steps
                        .filter((s) => columnFor(columns, roughly(s.moment)) === i)
                        .map((s) => (
                          <Ticket
                            key={s.id}
                            step={s}
                            exact={!onCalendar(s.moment) && s.moment.afterSeconds === c && s.moment.from !== "submission"}
                            notes={notesOf(s, band, definition)}
                            open={openStep === s.id}
                            faulty={faulty.has(s.id)}
                            onOpen={open}
                            onKey={press}
                            movable={edits !== null}
                            stamp={stamps?.step(s.id) ?? null}
                            dim={stamps ? !stamps.reached(s.id) : false}
                          />
                        ))}
                    </Box>
                  </chakra.td>
                ))}
              </chakra.tr>
            ))}
            {mayEdit && (
              <chakra.tr bg="card">
                <td />
                <chakra.td
                  colSpan={columns.length}
                  borderLeftWidth="1px"
                  borderColor="line2"
                  px="2"
                  pb="1"
                  css={aimed}
                  {...target(band.id, null)}
                >
                  <AddStep
                    band={band.name}
                    kinds={kinds}
                    onAdd={(kind) => onAddStep(band.id, kind)}
                    clip={edits?.clip.step}
                    onPaste={() => edits?.paste(band.id)}
                  />
                </chakra.td>
              </chakra.tr>
            )}
          </tbody>
        ))}
      </chakra.table>
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

// Where a ticket that is being dragged would come to stand.
const aimed = { "&[data-over]": { outline: "2px solid var(--chakra-colors-ink)", outlineOffset: "-2px" } };

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

// An hour and later may fall outside send hours: then it waits for them.
const hatched = { backgroundImage: "repeating-linear-gradient(135deg, transparent 0 6px, var(--chakra-colors-line2) 6px 7px)" };
