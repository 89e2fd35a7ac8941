import { Box } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "@/api/client";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { usePageKeys } from "@/app/useKeys";
import { usePerson } from "@/app/useSession";
import { OnThePhone } from "@/features/calls/OnThePhone";
import { marks } from "@/ui/burnScale";
import { PageHead } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { LinesDown } from "./LinesDown";
import { TodayPanel } from "./TodayPanel";
import { useToday, useWatch } from "./useWatch";
import { columns, WatchRow } from "./WatchRow";

/** Leads in the air and how long they have been waiting. */
export function WatchPage() {
  const person = usePerson();
  const chosen = useChosenClient();
  const watch = useWatch(chosen?.key);
  const today = useToday(chosen?.key);
  const now = useNow(500);
  const navigate = useNavigate();
  const [at, setAt] = useState(-1);
  const list = useRef<HTMLDivElement>(null);
  const rows = watch.data?.inTheAir ?? [];
  const place = Math.min(at, rows.length - 1);
  const announced = useNewLeads(rows);

  const move = (by: number) => {
    const next = Math.max(0, Math.min(rows.length - 1, place + by));
    setAt(next);
    list.current?.querySelectorAll("[data-row]")[next]?.scrollIntoView({ block: "nearest" });
  };
  usePageKeys({
    j: () => move(1),
    k: () => move(-1),
    Enter: () => rows[place] && void navigate(withClient(`/leads/${rows[place].id}`, chosen?.key)),
    t: () => list.current?.querySelectorAll<HTMLElement>("[data-row]")[place]?.querySelector<HTMLElement>("[data-take]")?.click(),
  });

  const clients = new Map(person.clients.map((c) => [c.id, c]));
  return (
    <Box display="flex" flexDirection={{ base: "column", lg: "row" }} flex="1">
      <Box flex="1" minW="0" p={{ base: "3", md: "5" }} pt={{ base: "3", md: "4" }}>
        <PageHead title="In the air" beside="nobody has reached out yet · each against its own target" />
        <Box role="status" aria-live="polite" position="absolute" width="1px" height="1px" overflow="hidden" clipPath="inset(50%)">
          {announced}
        </Box>
        <OnThePhone clientKey={chosen?.key} />
        {watch.error && <ErrorTold error={watch.error} again={() => void watch.refetch()} />}
        {watch.isPending && <Fetching what="who is in the air" />}
        {watch.data && rows.length === 0 && (
          <Empty said="Nobody is waiting.">
            Everyone who asked has heard from a person. Whoever asks next is here within a second, with a line that burns from the moment
            they sent the form.
          </Empty>
        )}
        {rows.length > 0 && (
          <>
            <Axis />
            <Box ref={list} role="list" aria-label="Leads in the air">
              {rows.map((lead, i) => (
                <WatchRow
                  key={lead.id}
                  lead={lead}
                  client={clients.get(lead.clientId)}
                  now={now}
                  me={person.name}
                  here={i === place}
                  clientKey={chosen?.key}
                  showClient={!chosen}
                />
              ))}
            </Box>
            {watch.data && watch.data.total > rows.length && (
              <Box color="ink2" mt="3">
                The {rows.length} nearest to their target are shown; {watch.data.total - rows.length} more are in the air.
              </Box>
            )}
          </>
        )}
      </Box>
      <TodayPanel today={today.data} error={today.error} client={chosen?.shortName}>
        {watch.data && <LinesDown watch={watch.data} clientKey={chosen?.key} showClient={!chosen && person.clients.length > 1} />}
      </TodayPanel>
    </Box>
  );
}

function Axis() {
  const labels: [string, number][] = [
    ["sent", 0],
    ["10 s", marks.tenSeconds],
    ["1 min", marks.minute],
    ["target", marks.target],
    ["twice", marks.twice],
  ];
  return (
    <Box
      display={{ base: "none", md: "grid" }}
      gridTemplateColumns={columns}
      gap="4"
      borderBottomWidth="1px"
      pb="1"
      fontFamily="mono"
      fontSize="11px"
      color="ink2"
      aria-hidden
    >
      <Box fontFamily="body" fontSize="13px" pl="3">
        who asked, and for what
      </Box>
      <Box position="relative" height="18px">
        {labels.map(([label, place]) => (
          <Box key={label} position="absolute" left={`${place * 100}%`} transform={place === 0 ? undefined : "translateX(-50%)"}>
            {label}
          </Box>
        ))}
      </Box>
      <Box textAlign="right">waiting</Box>
      <Box />
    </Box>
  );
}

// Says who came in since the list was last looked at, once.
function useNewLeads(rows: readonly Schemas["LeadRow"][]) {
  const known = useRef<Set<string> | null>(null);
  const [said, setSaid] = useState("");
  useEffect(() => {
    if (rows.length === 0 && known.current === null) return;
    const fresh = known.current === null ? [] : rows.filter((r) => !known.current?.has(r.id));
    known.current = new Set(rows.map((r) => r.id));
    if (fresh.length > 0) setSaid(fresh.length === 1 ? `New lead: ${fresh[0]?.name}, ${fresh[0]?.asked}` : `${fresh.length} new leads`);
  }, [rows]);
  return said;
}
