import { Box } from "@chakra-ui/react";
import type { Schemas } from "@/api/client";
import { secondsBetween, span } from "@/ui/time";

type AttemptLineProps = {
  madeAt: string;
  row: Pick<Schemas["DeliveryRow"], "status" | "dueAt" | "endedAt">;
  attempts: readonly Pick<Schemas["DeliveryAttemptTold"], "beganAt" | "status">[];
  now: number;
};

// The first seconds are as wide as the hours after them: most is decided in them.
const bend = (seconds: number) => Math.log1p(Math.max(0, seconds) * 4);

/** Where on the line something lies, 0 to 1, when the line ends so many seconds after the decision. */
export const placeOn = (seconds: number, end: number) => (end <= 0 ? 0 : Math.min(1, bend(seconds) / bend(end)));

/** A delivery as a line that burns: from the decision to its end, a tick for each attempt; what is still ahead is hollow. */
export function AttemptLine({ madeAt, row, attempts, now }: AttemptLineProps) {
  const over = row.status === "done" || row.status === "failed" || row.status === "cancelled";
  const last = attempts.at(-1)?.beganAt;
  const burnt = secondsBetween(madeAt, over ? (row.endedAt ?? last ?? madeAt) : now);
  const end = Math.max(burnt, over ? 0 : secondsBetween(madeAt, row.dueAt), 0.2);
  const head = placeOn(burnt, end);
  const good = row.status === "done";
  const left = secondsBetween(now, row.dueAt);
  const said = `${attempts.length} attempts in ${span(burnt)}${over ? "" : left > 0 ? `, the next ${span(left)} from now` : ", waiting its turn"}`;
  return (
    <Box position="relative" height="40px" my="2" mr="2" role="img" aria-label={said}>
      <Box position="absolute" left="0" right="0" top="10px" height="4px" bg="line" borderRadius="2px" />
      <Box
        position="absolute"
        left="0"
        width={`${head * 100}%`}
        top="9px"
        height="6px"
        bg={good ? "verdigris" : over ? "slate" : "sulphur"}
        borderWidth="1px"
        borderColor={good ? "verdigris" : "ink"}
      />
      {attempts.map((a) => (
        <Box
          key={a.beganAt}
          position="absolute"
          left={`${placeOn(secondsBetween(madeAt, a.beganAt), end) * 100}%`}
          top="4px"
          width="2px"
          height="16px"
          bg={a.status === "done" ? "verdigris" : "cinder"}
        />
      ))}
      <Box
        position="absolute"
        left={`calc(${head * 100}% - 5px)`}
        top="7px"
        width="10px"
        height="10px"
        transform="rotate(45deg)"
        bg={good ? "verdigris" : over ? "cinder" : "card"}
        borderWidth="1px"
        borderColor="ink"
      />
      <Box position="absolute" left="0" bottom="0" fontFamily="mono" fontSize="11px" color="ink2">
        decided
      </Box>
      <Box position="absolute" right="0" bottom="0" fontFamily="mono" fontSize="11px" color="ink2">
        {over ? span(burnt) : left > 0 ? `next after ${span(secondsBetween(madeAt, row.dueAt))}` : "waits its turn"}
      </Box>
    </Box>
  );
}
