import { Box, chakra } from "@chakra-ui/react";
import { type DragEvent, Fragment, type KeyboardEvent, memo, useState } from "react";
import { type Drop, stretchesOf } from "./moving";
import type { Stamps } from "./RunSheet";
import { type Band, laneOf, lanesOf, laneWords, lineOf, type Place, type StepKind } from "./sheetLayout";
import { dragged, Ticket } from "./Ticket";

type BandLineProps = {
  band: Band;
  kinds: readonly StepKind[];
  /** In which hours leads are written to, on their own clock. */
  sendHours: string;
  openStep: string | undefined;
  /** Ids of steps that are to be mended. */
  faulty: string;
  /** What is to be known of each step, as one text, so that an equal one is not drawn again. */
  notes: string;
  onOpen: (id: string) => void;
  onKey: (event: KeyboardEvent<HTMLElement>, id: string) => void;
  /** Lets a step go; not there where it may not be edited. */
  onDrop: ((stepId: string, bandId: string, drop: Drop) => void) | null;
  stamps: Stamps | null;
};

/**
 * A band's steps on a line of its own: time across, lanes down. In the document, and on a narrow screen, a list of moments.
 */
export const BandLine = memo(function BandLine(props: BandLineProps) {
  const { band, kinds, onDrop } = props;
  const [over, setOver] = useState<string | null>(null);
  const line = lineOf(band);
  const stretches = stretchesOf(line);
  const lanes = lanesOf(band, kinds);
  if (lanes.length === 0) return null;
  const places: Drop[] = line.flatMap((p, i) => [dropOn(stretches[i]?.seconds), { moment: p.moment }]);
  places.push(dropOn(stretches.at(-1)?.seconds));
  const dropping = onDrop && {
    onDragOver: (e: DragEvent<HTMLElement>) => {
      if (!e.dataTransfer.types.includes(dragged)) return;
      const at = trackAt(e);
      const mayStand = at !== null && places[Number(at)] !== null;
      setOver(mayStand ? at : null);
      if (mayStand) e.preventDefault();
    },
    onDragLeave: () => setOver(null),
    onDrop: (e: DragEvent<HTMLElement>) => {
      e.preventDefault();
      e.stopPropagation();
      setOver(null);
      const id = e.dataTransfer.getData(dragged);
      const at = trackAt(e);
      if (id && at !== null) onDrop(id, band.id, places[Number(at)] ?? null);
    },
  };
  const tracks = line.map((_, i) => `${stretches[i]?.width}px minmax(92px, max-content)`).join(" ");
  return (
    <Box overflowX="auto" bg="card">
      <chakra.ol
        listStyleType="none"
        display={{ base: "block", md: "grid" }}
        gridTemplateRows={`auto repeat(${lanes.length}, auto)`}
        style={{ gridTemplateColumns: `78px ${tracks} minmax(40px, 1fr)` }}
        pb={{ base: "2", md: "0" }}
        {...dropping}
      >
        {lanes.map((lane, row) => (
          <Box
            key={lane}
            as="li"
            aria-hidden
            role="presentation"
            display={{ base: "none", md: "block" }}
            fontSize="13px"
            color="ink2"
            px="2"
            py="1.5"
            borderTopWidth={row > 0 ? "1px" : "0"}
            borderColor="line2"
            style={{ gridColumn: "1 / -1", gridRow: row + 2 }}
          >
            {laneWords[lane]}
            {lane === "lead" && (
              <Box fontFamily="mono" fontSize="11px" whiteSpace="nowrap">
                {props.sendHours}
              </Box>
            )}
          </Box>
        ))}
        {places.map((drop, track) => (
          <Box
            // biome-ignore lint/suspicious/noArrayIndexKey: the place on the line
            key={track}
            as="li"
            aria-hidden
            role="presentation"
            data-track={track}
            title={drop && "seconds" in drop && onDrop ? "Let a step go here" : undefined}
            display={{ base: "none", md: "block" }}
            outline={over === String(track) ? "2px solid" : undefined}
            outlineColor="ink"
            outlineOffset="-2px"
            style={{ gridColumn: track + 2, gridRow: "1 / -1" }}
          />
        ))}
        {lanes[0] === "lead" &&
          line.map((place, i) =>
            mayWait(place, kinds) ? (
              <Box
                key={place.words}
                as="li"
                aria-hidden
                role="presentation"
                title="May wait for send hours"
                pointerEvents="none"
                display={{ base: "none", md: "block" }}
                css={hatched}
                style={{ gridColumn: `${2 * i + 2} / span 2`, gridRow: 2 }}
              />
            ) : null,
          )}
        {line.map((place, i) => (
          <PlaceOnLine key={place.words} place={place} track={2 * i + 3} last={i === line.length - 1} lanes={lanes} {...props} />
        ))}
      </chakra.ol>
    </Box>
  );
});

// A message an hour or more away may fall outside send hours, and wait for them; one with a time of its own was put within them.
const mayWait = (place: Place, kinds: readonly StepKind[]) =>
  place.seconds >= 3600 && !place.moment.at && place.steps.some((s) => laneOf(s, kinds) === "lead");

const dropOn = (seconds: number | null | undefined): Drop => (seconds === null || seconds === undefined ? null : { seconds });

// Which part of the line the pointer is over.
function trackAt(e: DragEvent<HTMLElement>): string | null {
  const tracks = [...e.currentTarget.querySelectorAll<HTMLElement>("[data-track]")];
  const at = tracks.find((t) => {
    const { left, right } = t.getBoundingClientRect();
    return e.clientX >= left && e.clientX < right;
  });
  return at?.dataset.track ?? null;
}

type PlaceProps = BandLineProps & {
  place: Place;
  track: number;
  last: boolean;
  lanes: readonly ("lead" | "team" | "systems" | "silent")[];
};

// A moment with what is done at it, lane by lane.
function PlaceOnLine({ place, track, last, lanes, kinds, openStep, faulty, notes, onOpen, onKey, onDrop, stamps }: PlaceProps) {
  const told = JSON.parse(notes) as { [id: string]: string };
  return (
    <Box as="li" display={{ base: "block", md: "contents" }} px={{ base: "2", md: "0" }}>
      <Box
        display="flex"
        alignItems="center"
        gap="1.5"
        fontFamily="mono"
        fontSize="12px"
        color="ink2"
        whiteSpace="nowrap"
        pt="1.5"
        style={{ gridColumn: `${track} / span 2`, gridRow: 1 }}
      >
        <Box as="span" aria-hidden w="7px" h="7px" bg="ink" transform="rotate(45deg)" flex="none" ml="2px" />
        {place.words}
        <Box as="span" aria-hidden flex="1" minW="6px" h="1px" bg={last ? "line" : "ink"} />
      </Box>
      {lanes.map((lane, row) => {
        const steps = place.steps.filter((s) => laneOf(s, kinds) === lane);
        if (steps.length === 0) return <Fragment key={lane} />;
        return (
          <Box
            key={lane}
            display="flex"
            position="relative"
            flexWrap="wrap"
            gap="1"
            alignContent="flex-start"
            alignItems="baseline"
            py="1"
            style={{ gridColumn: track, gridRow: row + 2 }}
          >
            <Box as="span" fontSize="13px" color="ink2" minW="64px" css={wideSrOnly}>
              {laneWords[lane]}
            </Box>
            {steps.map((s) => (
              <Ticket
                key={s.id}
                step={s}
                notes={told[s.id] ?? ""}
                open={openStep === s.id}
                faulty={faulty.split(" ").includes(s.id)}
                onOpen={onOpen}
                onKey={onKey}
                movable={onDrop !== null}
                stamp={stamps?.step(s.id) ?? null}
                dim={stamps ? !stamps.reached(s.id) : false}
              />
            ))}
          </Box>
        );
      })}
    </Box>
  );
}

const hatched = { backgroundImage: "repeating-linear-gradient(135deg, transparent 0 6px, var(--chakra-colors-line) 6px 7px)" };

// On a wide screen the lane's name stands once, at the left; who listens hears it with each of its steps.
const wideSrOnly = {
  "@media (min-width: 48em)": { position: "absolute", width: "1px", height: "1px", overflow: "hidden", clipPath: "inset(50%)" },
};
