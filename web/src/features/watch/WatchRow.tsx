import { Box } from "@chakra-ui/react";
import { Link } from "react-router";
import { Problem, type Schemas } from "@/api/client";
import { withClient } from "@/app/useChosenClient";
import type { Person } from "@/app/useSession";
import { useTouches } from "@/features/leads/useTouches";
import { BurnLine } from "@/ui/BurnLine";
import { Button } from "@/ui/Button";
import { latenessOf, toTarget } from "@/ui/lateness";
import { runningSpan, secondsBetween, span } from "@/ui/time";

export const columns = "minmax(190px, 1.1fr) minmax(220px, 2.2fr) 96px 132px";

type WatchRowProps = {
  lead: Schemas["LeadRow"];
  client: Person["clients"][number] | undefined;
  now: number;
  me: string;
  here: boolean;
  clientKey: string | undefined;
  showClient: boolean;
};

/** One lead in the air: who, what they asked, how long, who has it. */
export function WatchRow({ lead, client, now, me, here, clientKey, showClient }: WatchRowProps) {
  const { take, touch } = useTouches(lead.id);
  const { waited, left, late } = latenessOf(lead, now);
  const mine = lead.takenBy === me;
  const mayTouch = client?.may.includes("touch-leads") ?? false;
  const refused = take.error ?? touch.error;
  return (
    <Box role="listitem" data-row borderBottomWidth="1px" borderColor="line2" position="relative">
      <Box
        display="grid"
        gridTemplateColumns={{ base: "1fr auto", md: columns }}
        columnGap="4"
        alignItems="center"
        minH="60px"
        pl="3"
        borderLeftWidth="3px"
        borderColor={here ? "ink" : "transparent"}
        bg={here ? "card" : undefined}
      >
        <Box minW="0" py="1" lineHeight="18px">
          <Box asChild fontWeight={700} display="block" truncate _hover={{ textDecoration: "underline" }}>
            <Link to={withClient(`/leads/${lead.id}`, clientKey)}>{lead.name}</Link>
          </Box>
          <Box fontSize="13px" color="ink" truncate title={lead.asked}>
            {lead.asked || lead.form}
          </Box>
          <Box fontSize="12px" color="ink2" truncate>
            {[lead.test ? "a test" : null, showClient ? client?.shortName : null, lead.form, lead.source].filter(Boolean).join(" · ")}
          </Box>
        </Box>
        <Box gridColumn={{ base: "1 / -1", md: "auto" }} gridRow={{ base: 2, md: "auto" }} pr="2">
          <BurnLine askedAt={lead.askedAt} targetAt={lead.targetAt} ticks={lead.ticks} now={now} takenBy={lead.takenBy} />
        </Box>
        <Box textAlign="right" fontFamily="mono" whiteSpace="nowrap">
          <Box fontWeight={700} fontSize="14px" color={late ? "cinder" : "ink"}>
            {runningSpan(waited)}
          </Box>
          <Box fontSize="11px" color={late ? "cinder" : "ink2"}>
            {toTarget(left)}
          </Box>
        </Box>
        <Box
          display="flex"
          flexDirection="column"
          alignItems={{ base: "flex-start", md: "flex-end" }}
          gridColumn={{ base: "1 / -1", md: "auto" }}
          pb={{ base: "2", md: "0" }}
        >
          {lead.takenBy ? (
            <>
              <Box fontSize="13px" whiteSpace="nowrap">
                <b>{mine ? "You have it" : `${lead.takenBy.split(" ")[0]} has it`}</b>
              </Box>
              {mine && mayTouch ? (
                <Button look="soft" size="small" onClick={() => touch.mutate("spoke")} disabled={touch.isPending}>
                  Spoke to them
                </Button>
              ) : (
                <Box fontSize="12px" color="ink2" whiteSpace="nowrap">
                  for {span(secondsBetween(lead.takenAt ?? lead.askedAt, now))}
                </Box>
              )}
            </>
          ) : (
            mayTouch && (
              <Button
                data-take
                look={here ? "primary" : "plain"}
                onClick={() => take.mutate()}
                disabled={take.isPending}
                aria-label={`Take ${lead.name}`}
              >
                Take it
              </Button>
            )
          )}
        </Box>
      </Box>
      {refused && (
        <Box role="alert" fontSize="13px" color="cinder" pl="3" pb="2">
          {refused instanceof Problem ? (refused.detail ?? refused.title) : "Lit Fuse did not answer; try again."}
        </Box>
      )}
    </Box>
  );
}
