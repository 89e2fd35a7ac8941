import { type DragEvent, type KeyboardEvent, memo, useState } from "react";
import { type Drop, stretchesOf } from "@/features/fuses/model/moving";
import { type Band, laneOf, lanesOf, laneWords, lineOf, type Place, type StepKind } from "@/features/fuses/model/sheetLayout";
import type { Stamps } from "@/features/fuses/model/stamps";
import { dragged, Ticket } from "./Ticket";
import "./sheet.css";

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
  const hidden = { "aria-hidden": true, role: "presentation" } as const;
  return (
    <div className="line">
      <ol
        style={{ gridTemplateRows: `auto repeat(${lanes.length}, auto)`, gridTemplateColumns: `78px ${tracks} minmax(40px, 1fr)` }}
        {...dropping}
      >
        {lanes.map((lane, row) => (
          <li
            key={lane}
            className={row === 0 ? "wide row first" : "wide row"}
            {...hidden}
            style={{ gridArea: `${row + 2} / 1 / auto / -1` }}
          >
            {laneWords[lane]}
            {lane === "lead" && <span className="hours">{props.sendHours}</span>}
          </li>
        ))}
        {places.map((drop, track) => (
          <li
            // biome-ignore lint/suspicious/noArrayIndexKey: the place on the line
            key={track}
            className="wide"
            {...hidden}
            data-track={track}
            data-over={over === String(track) || undefined}
            title={drop && "seconds" in drop && onDrop ? "Let a step go here" : undefined}
            style={{ gridArea: `1 / ${track + 2} / -1 / auto` }}
          />
        ))}
        {lanes[0] === "lead" &&
          line.map((place, i) =>
            mayWait(place, kinds) ? (
              <li
                key={place.words}
                className="wide wait"
                {...hidden}
                title="May wait for send hours"
                style={{ gridArea: `2 / ${2 * i + 2} / auto / span 2` }}
              />
            ) : null,
          )}
        {line.map((place, i) => (
          <PlaceOnLine key={place.words} place={place} track={2 * i + 3} lanes={lanes} {...props} />
        ))}
      </ol>
    </div>
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

type PlaceProps = BandLineProps & { place: Place; track: number; lanes: readonly ("lead" | "team" | "systems" | "silent")[] };

// A moment with what is done at it, lane by lane.
function PlaceOnLine({ place, track, lanes, kinds, openStep, faulty, notes, onOpen, onKey, onDrop, stamps }: PlaceProps) {
  const told = JSON.parse(notes) as { [id: string]: string };
  return (
    <li className="moment">
      <div className="when" style={{ gridArea: `1 / ${track} / auto / span 2` }}>
        {place.words}
      </div>
      {lanes.map((lane, row) => {
        const steps = place.steps.filter((s) => laneOf(s, kinds) === lane);
        if (steps.length === 0) return null;
        return (
          <div key={lane} className="tickets" style={{ gridArea: `${row + 2} / ${track}` }}>
            <span className="lane">{laneWords[lane]}</span>
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
          </div>
        );
      })}
    </li>
  );
}
