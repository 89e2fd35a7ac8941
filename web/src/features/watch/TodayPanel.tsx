import { Box } from "@chakra-ui/react";
import type { ReactNode } from "react";
import type { Schemas } from "@/api/client";
import { SectionHead } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { ErrorTold } from "@/ui/Told";
import { cityOf, clock, span } from "@/ui/time";

type TodayPanelProps = { today: Schemas["WatchToday"] | undefined; error: unknown; client: string | undefined; children?: ReactNode };

/** Today against a usual day by this hour. */
export function TodayPanel({ today, error, client, children }: TodayPanelProps) {
  const now = useNow(10_000);
  const zone = today?.zone ?? "Europe/London";
  return (
    <Box
      as="aside"
      aria-label="Today"
      width={{ base: "full", lg: "296px" }}
      flexShrink={0}
      bg="shade"
      borderLeftWidth={{ base: "0", lg: "1px" }}
      p="5"
    >
      {children}
      <SectionHead>
        Today until <Mono>{clock(now, zone, false)}</Mono>{" "}
        <Box as="span" fontWeight={400} color="ink2">
          {client ?? `all clients, by ${cityOf(zone)}'s day`}
        </Box>
      </SectionHead>
      {error ? <ErrorTold error={error} /> : null}
      {today && (
        <>
          <Box as="dl">
            <Figure name="Leads" aside={today.usualByNow === null ? undefined : `usual by now ${Math.round(today.usualByNow)}`}>
              {today.leads}
            </Figure>
            <Figure name="Speed to lead, median">{today.medianSpeedSeconds === null ? "none yet" : span(today.medianSpeedSeconds)}</Figure>
            <Figure name="Within target">{today.withinTarget === null ? "none yet" : `${Math.round(today.withinTarget * 100)} %`}</Figure>
            <Figure name="Cost per lead">
              {today.costPerLead !== null && today.currency ? (
                new Intl.NumberFormat("en-GB", { style: "currency", currency: today.currency, currencyDisplay: "narrowSymbol" }).format(
                  today.costPerLead / 100,
                )
              ) : today.currency ? (
                "none yet"
              ) : (
                <Box as="span" fontFamily="body" fontWeight={400} color="ink2">
                  one client at a time
                </Box>
              )}
            </Figure>
          </Box>
          <Hours today={today} hour={Number(clock(now, zone, false).slice(0, 2))} />
        </>
      )}
    </Box>
  );
}

const Mono = ({ children }: { children: ReactNode }) => (
  <Box as="span" fontFamily="mono">
    {children}
  </Box>
);

function Figure({ name, aside, children }: { name: string; aside?: string; children: ReactNode }) {
  return (
    <Box display="flex" justifyContent="space-between" alignItems="baseline" gap="3" py="1.5">
      <Box as="dt" fontSize="14px">
        {name}
        {aside && (
          <Box fontSize="12px" color="ink2">
            {aside}
          </Box>
        )}
      </Box>
      <Box as="dd" fontFamily="mono" fontWeight={700} whiteSpace="nowrap">
        {children}
      </Box>
    </Box>
  );
}

// Solid is what came, hollow what is usual: today's shape beside that of its weekday.
function Hours({ today, hour }: { today: Schemas["WatchToday"]; hour: number }) {
  const most = Math.max(1, ...today.byHour, ...today.usualByHour);
  const height = (n: number) => `${(n / most) * 64}px`;
  const busiest = today.byHour.indexOf(Math.max(...today.byHour));
  return (
    <Box mt="3" role="img" aria-label={`Leads by hour: ${today.leads} today, most at ${busiest} o'clock`}>
      <Box display="flex" alignItems="flex-end" height="66px" gap="2px">
        {today.byHour.map((count, h) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the hour is what it is
          <Box key={h} flex="1" position="relative" height="full">
            <Box
              position="absolute"
              bottom="0"
              left="0"
              right="0"
              height={height(today.usualByHour[h] ?? 0)}
              borderWidth="1px"
              borderColor="slate"
              borderBottomWidth="0"
            />
            {h <= hour && <Box position="absolute" bottom="0" left="2px" right="2px" height={height(count)} bg="ink" />}
          </Box>
        ))}
      </Box>
      <Box
        borderTopWidth="1px"
        borderColor="slate"
        display="flex"
        justifyContent="space-between"
        fontFamily="mono"
        fontSize="11px"
        color="ink2"
        pt="1"
      >
        {["0", "6", "12", "18", "24 h"].map((label) => (
          <span key={label}>{label}</span>
        ))}
      </Box>
      <Box fontSize="12px" color="ink2" mt="1">
        solid: today · hollow: a usual{" "}
        {new Intl.DateTimeFormat("en-GB", { weekday: "long", timeZone: today.zone ?? "UTC" }).format(Date.parse(today.now))}
      </Box>
    </Box>
  );
}
