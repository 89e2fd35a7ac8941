import { Box, chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { State } from "@/ui/Page";
import { SideSheet } from "@/ui/SideSheet";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { standing, states, stepsWords, useBurns } from "./useBurns";

type Props = { fuseId: string; counts: Schemas["BurnCounts"] | undefined; error: unknown; zone: string; close: () => void };

/** A fuse's burns beside its sheet: how they stand, and the latest of them. */
export function BurnsOfFuse({ fuseId, counts, error, zone, close }: Props) {
  const now = useNow(5000);
  const [state, setState] = useState("");
  const list = useBurns(undefined, state ? { fuse: fuseId, state } : { fuse: fuseId });
  const rows = (list.data?.pages[0]?.items ?? []).slice(0, 20);
  const number = (key: string, n: number) => (
    <Button
      look={state === key ? "soft" : "quiet"}
      size="small"
      fontWeight={400}
      aria-pressed={state === key}
      onClick={() => setState(state === key ? "" : key)}
    >
      {n} {key === "failed" ? "with a failed step" : key}
    </Button>
  );
  return (
    <SideSheet title="Burns" close={close} wide>
      {error ? <ErrorTold error={error} /> : null}
      {!counts && !error && <Fetching what="the counts" />}
      {counts && (
        <Box mb="3" fontSize="14px">
          Lit <b>{counts.lit}</b> times in {counts.days} days; the sheet shows what its steps came to.
          <Box display="flex" gap="2" flexWrap="wrap" alignItems="center" mt="1">
            {number("burning", counts.burning)}
            {number("held", counts.held)}
            {number("listening", counts.listening)}
            {number("failed", counts.failed)}
          </Box>
        </Box>
      )}
      <Box fontSize="13px" color="ink2" mb="1">
        The latest: {states.find(([s]) => s === state)?.[1]}
      </Box>
      {list.error && <ErrorTold error={list.error} />}
      {list.data && rows.length === 0 && <Box>None.</Box>}
      <chakra.ul listStyleType="none">
        {rows.map((row) => {
          const is = standing(row);
          return (
            <Box as="li" key={row.id} borderTopWidth="1px" borderColor="line2" py="1.5" fontSize="14px">
              <Box display="flex" justifyContent="space-between" gap="2">
                <chakra.span fontWeight={600} textDecoration="underline" textUnderlineOffset="3px">
                  <Link to={`/fuses/burns?fuse=${fuseId}&burn=${row.id}`}>{row.lead}</Link>
                </chakra.span>
                <State of={is.of}>{is.word}</State>
              </Box>
              <Box fontSize="13px" color="ink2">
                {dayAndClock(row.litAt, now, zone)} · {stepsWords(row)}
              </Box>
            </Box>
          );
        })}
      </chakra.ul>
      <Box mt="3" textDecoration="underline" textUnderlineOffset="3px" fontSize="14px">
        <Link to={`/fuses/burns?fuse=${fuseId}${state ? `&state=${state}` : ""}`}>All of them</Link>
      </Box>
    </SideSheet>
  );
}
