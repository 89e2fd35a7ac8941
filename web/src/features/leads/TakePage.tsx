import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { may, usePerson } from "@/app/useSession";
import { BurnLine } from "@/ui/BurnLine";
import { Button } from "@/ui/Button";
import { PageHead } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { runningSpan, secondsBetween, span } from "@/ui/time";
import { useTouches } from "./useTouches";

/** Where the link in a post leads: one lead, and one thing to press. */
export function TakePage() {
  const { token = "" } = useParams();
  const found = useQuery({
    queryKey: ["leads", "by-link", token],
    queryFn: () => unwrap(api.GET("/api/leads/by-link/{token}", { params: { path: { token } } })),
  });
  return (
    <Box p={{ base: "3", md: "5" }} pt="4" maxW="560px">
      {found.error && (
        <>
          <PageHead title="Take it" />
          <ErrorTold error={found.error} again={() => void found.refetch()} />
        </>
      )}
      {found.isPending && <Fetching what="the lead" />}
      {found.data && <Take lead={found.data} />}
    </Box>
  );
}

function Take({ lead }: { lead: Schemas["LeadRow"] }) {
  const person = usePerson();
  const now = useNow(1000);
  const { take, release } = useTouches(lead.id);
  const mine = lead.takenBy === person.name;
  const mayTouch = may(person, "touch-leads", lead.clientId);
  const refused = take.error ?? release.error;
  return (
    <>
      <PageHead title={lead.name} beside={[lead.test ? "a test" : null, lead.form, lead.source].filter(Boolean).join(" · ")} />
      <Box fontSize="16px" mb="3" overflowWrap="anywhere">
        {lead.asked}
      </Box>
      <BurnLine askedAt={lead.askedAt} targetAt={lead.targetAt} ticks={lead.ticks} now={now} takenBy={lead.takenBy} />
      <Box role="status" my="3">
        {lead.firstTouchAt ? (
          <>
            <b>{lead.firstTouchBy ?? "Somebody"} has reached out</b>, {span(secondsBetween(lead.askedAt, lead.firstTouchAt))} after they
            asked.
          </>
        ) : mine ? (
          <>
            <b>You have it.</b> The clock goes on until you reach out: {runningSpan(secondsBetween(lead.askedAt, now))} so far.
          </>
        ) : lead.takenBy ? (
          <>
            <b>{lead.takenBy} has it</b>, for {span(secondsBetween(lead.takenAt ?? lead.askedAt, now))}.
          </>
        ) : (
          <>Nobody has it yet; they have waited {runningSpan(secondsBetween(lead.askedAt, now))}.</>
        )}
      </Box>
      {refused && <ErrorTold error={refused} />}
      <Box display="flex" gap="3" alignItems="center" flexWrap="wrap">
        {!lead.takenBy && mayTouch && (
          <Button look="primary" minH="48px" fontSize="16px" onClick={() => take.mutate()} disabled={take.isPending}>
            Take it
          </Button>
        )}
        {mine && lead.phone && (
          <chakra.a href={`tel:${lead.phone}`} fontWeight={700} borderWidth="1px" borderColor="ink" borderRadius="sm" px="4" py="3">
            Ring {lead.phone}
          </chakra.a>
        )}
        {mine && !lead.firstTouchAt && (
          <Button look="quiet" onClick={() => release.mutate()} disabled={release.isPending}>
            Give it back
          </Button>
        )}
        <Link to={`/leads/${lead.id}`}>
          <u>All about them</u>
        </Link>
      </Box>
    </>
  );
}
