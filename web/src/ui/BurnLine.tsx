import { Box } from "@chakra-ui/react";
import { placeOf } from "./burnScale";
import { latenessOf } from "./lateness";
import { secondsBetween, span } from "./time";

export type Tick = { at: string; kind: string };

type BurnLineProps = {
  askedAt: string;
  targetAt: string;
  touchedAt?: string | null;
  ticks: readonly Tick[];
  now: number;
  takenBy?: string | null;
  height?: number;
};

const above = new Set(["text", "email", "delivered", "touched"]);
const words: Record<string, string> = { team: "team", text: "text", email: "email", rung: "rung", taken: "taken", touched: "touched" };
const percent = (place: number) => `${(place * 100).toFixed(2)}%`;

/**
 * The product's own mark: a line from the submission to the target; burnt part solid, the rest hollow, a tick for all
 * that has happened, the head a lozenge. What it shows is also said in words, for who cannot see it.
 */
export function BurnLine({ askedAt, targetAt, touchedAt, ticks, now, takenBy, height = 48 }: BurnLineProps) {
  const target = secondsBetween(askedAt, targetAt);
  const { waited: burnt, late } = latenessOf({ askedAt, targetAt, firstTouchAt: touchedAt }, now);
  const head = placeOf(burnt, target);
  const mark = placeOf(target, target);
  const done = Boolean(touchedAt);
  const body = done ? "verdigris" : late ? "slate" : "sulphur";
  const middle = height / 2;
  return (
    <Box position="relative" height={`${height}px`} role="img" aria-label={sayBurnLine(burnt, target, done, ticks, askedAt, takenBy)}>
      <Box position="absolute" left="0" right="0" top={`${middle - 2}px`} height="4px" bg="line" borderRadius="2px" />
      <Box
        position="absolute"
        left="0"
        width={percent(Math.min(head, late ? mark : head))}
        top={`${middle - 3}px`}
        height="7px"
        bg={body}
        borderWidth="1px"
        borderColor={done ? "verdigris" : "ink"}
      />
      {late && (
        <Box
          position="absolute"
          left={percent(mark)}
          width={percent(head - mark)}
          top={`${middle - 3}px`}
          height="7px"
          css={{ backgroundImage: "repeating-linear-gradient(90deg, var(--chakra-colors-cinder) 0 4px, transparent 4px 7px)" }}
        />
      )}
      <Box position="absolute" left={percent(mark)} top={`${middle - 11}px`} height="22px" width="2px" bg="ink" />
      {labelled(ticks, askedAt, target).map((tick) => (
        <Box key={`${tick.kind}${tick.at}`} aria-hidden>
          <Box
            position="absolute"
            left={percent(tick.place)}
            top={`${middle - 7}px`}
            height="14px"
            width="2px"
            bg={late ? "ink" : "verdigris"}
          />
          {tick.label && (
            <Box
              position="absolute"
              left={percent(tick.place)}
              top={above.has(tick.kind) ? `${middle - 23}px` : `${middle + 9}px`}
              fontFamily="mono"
              fontSize="11px"
              lineHeight="14px"
              color="ink2"
              whiteSpace="nowrap"
            >
              {tick.label}
            </Box>
          )}
        </Box>
      ))}
      <Box
        position="absolute"
        left={percent(head)}
        top={`${middle - 6}px`}
        width="12px"
        height="12px"
        ml="-6px"
        bg={done ? "verdigris" : late ? "cinder" : "sulphur"}
        borderWidth="1.5px"
        borderColor={done ? "verdigris" : "ink"}
        transform="rotate(45deg)"
      />
    </Box>
  );
}

// One label for a kind, and none that would lie upon another of its row.
function labelled(ticks: readonly Tick[], askedAt: string, target: number) {
  const said = new Set<string>();
  const ends = { above: -1, below: -1 };
  return ticks.map((tick) => {
    const place = placeOf(secondsBetween(askedAt, tick.at), target);
    const row = above.has(tick.kind) ? "above" : "below";
    const label = said.has(tick.kind) ? undefined : words[tick.kind];
    const fits = label !== undefined && place > ends[row];
    if (fits) {
      said.add(tick.kind);
      ends[row] = place + 0.03 + label.length * 0.016;
    }
    return { ...tick, place, label: fits ? label : undefined };
  });
}

/** The line in words. */
export function sayBurnLine(
  burnt: number,
  target: number,
  done: boolean,
  ticks: readonly Tick[],
  askedAt: string,
  takenBy?: string | null,
) {
  const head = done
    ? `Touched ${span(burnt)} after they asked`
    : burnt > target
      ? `Waiting ${span(burnt)}, ${span(burnt - target)} past the target`
      : `Waiting ${span(burnt)}, ${span(target - burnt)} to the target`;
  const happened = ticks.map((t) => `${t.kind} after ${span(secondsBetween(askedAt, t.at))}`).join(", ");
  return [head, takenBy && !done ? `${takenBy} has it` : "", happened].filter(Boolean).join("; ");
}
