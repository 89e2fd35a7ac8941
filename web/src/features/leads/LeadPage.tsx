import { Box } from "@chakra-ui/react";
import { useRef } from "react";
import { Navigate, useParams } from "react-router";
import { Problem, type Schemas } from "@/api/client";
import { usePageKeys } from "@/app/useKeys";
import { may, usePerson } from "@/app/useSession";
import { CallOfLead } from "@/features/calls/OnThePhone";
import { useRing } from "@/features/calls/useCalls";
import { BurnLine } from "@/ui/BurnLine";
import { Button } from "@/ui/Button";
import { latenessOf } from "@/ui/lateness";
import { PageHead, SectionHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { cityOf, clock, dayAndClock, runningSpan, span } from "@/ui/time";
import { Consents, Submissions, Warnings } from "./LeadAside";
import { Belongs } from "./LeadBelongs";
import { LeadBurns } from "./LeadBurns";
import { Story } from "./Story";
import { TextWriter } from "./TextWriter";
import { useLead } from "./useLead";
import { useTouches } from "./useTouches";

export function LeadPage() {
  const { leadId = "" } = useParams();
  const lead = useLead(leadId);
  // It turned out to be the same person as another: the link still leads to them.
  const merged = lead.error instanceof Problem ? lead.error.more.mergedInto : undefined;
  if (typeof merged === "string") return <Navigate to={`/leads/${merged}`} replace />;
  if (lead.error) {
    return (
      <Box p="5">
        <PageHead title="Lead" />
        <ErrorTold error={lead.error} again={() => void lead.refetch()} />
      </Box>
    );
  }
  return lead.data ? (
    <WholeLead key={leadId} whole={lead.data} />
  ) : (
    <Box p="5">
      <Fetching what="the lead" />
    </Box>
  );
}

/** The story, the answers, and what to do next at the top. */
function WholeLead({ whole }: { whole: Schemas["LeadDetail"] }) {
  const person = usePerson();
  const now = useNow(500);
  const { lead } = whole;
  const touches = useTouches(lead.id);
  const writer = useRef<HTMLTextAreaElement>(null);
  const client = person.clients.find((c) => c.id === lead.clientId);
  const mayTouch = may(person, "touch-leads", lead.clientId);
  const mine = lead.takenBy === person.name;
  usePageKeys({
    t: () => mayTouch && !lead.firstTouchAt && (mine ? touches.release.mutate() : touches.take.mutate()),
    w: () => writer.current?.focus(),
  });
  const zone = client?.zone ?? "UTC";
  return (
    <Box display="flex" flexDirection={{ base: "column", lg: "row" }} flex="1">
      <Box flex="1" minW="0" p={{ base: "3", md: "5" }} pt="4">
        <PageHead
          title={lead.name}
          beside={
            <>
              {[client && person.clients.length > 1 ? client.shortName : null, lead.form, lead.source].filter(Boolean).join(" · ")}
              {" · asked "}
              {dayAndClock(lead.askedAt, now, zone)} in {cityOf(zone)}
            </>
          }
        />
        <Warnings whole={whole} mayTouch={mayTouch} now={now} zone={zone} />
        <Next whole={whole} now={now} mine={mine} mayTouch={mayTouch} touches={touches} onWrite={() => writer.current?.focus()} />
        <CallOfLead leadId={lead.id} mayHangUp={mayTouch} />
        <Box maxW="760px" mt="1" mb="4">
          <BurnLine
            askedAt={lead.askedAt}
            targetAt={lead.targetAt}
            touchedAt={lead.firstTouchAt}
            ticks={lead.ticks}
            now={now}
            takenBy={lead.takenBy}
            height={56}
          />
        </Box>
        <LeadBurns leadId={whole.lead.id} burns={whole.burns} mayTouch={mayTouch} now={now} zone={whole.zone} />
        <SectionHead>The story</SectionHead>
        <Story lines={whole.story} zone={zone} now={now} />
      </Box>
      <Box
        as="aside"
        aria-label="About them"
        width={{ base: "full", lg: "340px" }}
        flexShrink={0}
        bg="shade"
        borderLeftWidth={{ base: "0", lg: "1px" }}
        p="5"
      >
        <Contact whole={whole} mayTouch={mayTouch} touches={touches} now={now} />
        {mayTouch && <TextWriter whole={whole} box={writer} text={touches.text} />}
        <Belongs whole={whole} mayTouch={mayTouch} />
        <Submissions whole={whole} mayTouch={mayTouch} now={now} zone={zone} />
        <Consents whole={whole} mayTouch={mayTouch} now={now} zone={zone} />
      </Box>
    </Box>
  );
}

type Touches = ReturnType<typeof useTouches>;
type NextProps = { whole: Schemas["LeadDetail"]; now: number; mine: boolean; mayTouch: boolean; touches: Touches; onWrite: () => void };

/** The next best thing to do. */
function Next({ whole, now, mine, mayTouch, touches, onWrite }: NextProps) {
  const { lead } = whole;
  const { waited, left, late, touched } = latenessOf(lead, now);
  if (touched) {
    return (
      <Box display="flex" gap="3" alignItems="center" flexWrap="wrap">
        <State of={late ? "broken" : "whole"}>touched</State>
        <Box>
          <b>{lead.firstTouchBy}</b> reached out <Mono>{span(waited)}</Mono> after they asked
          {late ? ", past the target" : ", within the target"}.
        </Box>
        {mayTouch && (
          <Button look="soft" size="small" onClick={() => touches.touch.mutate("spoke")} disabled={touches.touch.isPending}>
            Spoke to them again
          </Button>
        )}
        <Refused touches={touches} />
      </Box>
    );
  }
  return (
    <Box>
      <Box display="flex" gap="3" alignItems="center" flexWrap="wrap">
        <State of={late ? "broken" : "waiting"}>{late ? "late" : "in the air"}</State>
        <Box>
          {lead.takenBy ? (
            <>
              <b>{mine ? "You have it." : `${lead.takenBy} has it.`}</b> {mine ? "Reach out: " : "Still waiting: "}
            </>
          ) : (
            <>
              <b>Nobody has it.</b> They have waited{" "}
            </>
          )}
          <Mono late={late}>{runningSpan(waited)}</Mono>,{" "}
          {late ? `${runningSpan(-left)} past the target` : `${runningSpan(left)} to the target`}.
        </Box>
        {mayTouch && (
          <Box display="flex" gap="2" flexWrap="wrap">
            {!lead.takenBy && (
              <Button look="primary" onClick={() => touches.take.mutate()} disabled={touches.take.isPending}>
                Take it
              </Button>
            )}
            {lead.takenBy && whole.canText && (
              <Button look={mine ? "primary" : "plain"} onClick={onWrite}>
                Write a text
              </Button>
            )}
            <Button look="plain" onClick={() => touches.touch.mutate("spoke")} disabled={touches.touch.isPending}>
              Spoke to them
            </Button>
            {mine && (
              <Button look="soft" onClick={() => touches.release.mutate()} disabled={touches.release.isPending}>
                Give it back
              </Button>
            )}
          </Box>
        )}
      </Box>
      <Refused touches={touches} />
    </Box>
  );
}

function Refused({ touches }: { touches: Touches }) {
  const error = [touches.take, touches.release, touches.touch, touches.optOut].map((t) => t.error).find(Boolean);
  if (!error) return null;
  return error instanceof Problem && error.code === "already-taken" ? (
    <Box role="alert" color="cinder" mt="2">
      {error.detail}
    </Box>
  ) : (
    <ErrorTold error={error} />
  );
}

const Mono = ({ children, late }: { children: string; late?: boolean }) => (
  <Box as="span" fontFamily="mono" fontWeight={700} color={late ? "cinder" : undefined}>
    {children}
  </Box>
);

function Contact({ whole, mayTouch, touches, now }: { whole: Schemas["LeadDetail"]; mayTouch: boolean; touches: Touches; now: number }) {
  const { lead } = whole;
  const ring = useRing(lead.id);
  return (
    <Box>
      <SectionHead>How to reach them</SectionHead>
      {lead.phone && (
        <Box display="flex" alignItems="center" gap="3">
          <a href={`tel:${lead.phone}`}>
            <Box as="span" display="inline-block" lineHeight="26px" fontFamily="mono" textDecoration="underline" textUnderlineOffset="3px">
              {lead.phone}
            </Box>
          </a>
          {mayTouch && (
            <Button look="plain" size="small" onClick={() => ring.mutate()} disabled={ring.isPending} title="Your phone rings, then theirs">
              Ring
            </Button>
          )}
        </Box>
      )}
      {ring.error && <ErrorTold error={ring.error} />}
      {lead.email && (
        <Box>
          <a href={`mailto:${lead.email}`}>
            <Box
              as="span"
              display="inline-block"
              lineHeight="26px"
              textDecoration="underline"
              textUnderlineOffset="3px"
              overflowWrap="anywhere"
            >
              {lead.email}
            </Box>
          </a>
        </Box>
      )}
      {!lead.phone && !lead.email && <Box color="ink2">They left neither a phone number nor an email address.</Box>}
      <Box fontSize="13px" color="ink2" mt="1">
        It is {clock(now, whole.zone, false)} where they are ({cityOf(whole.zone)}
        {whole.zoneBecause ? `, ${whole.zoneBecause}` : ""}).
      </Box>
      <Box fontSize="13px" mt="2">
        {whole.optedOutAt ? (
          <State of="broken">wants no texts</State>
        ) : (
          mayTouch &&
          lead.phone && (
            <Button
              look="quiet"
              fontSize="13px"
              onClick={() =>
                window.confirm(`${lead.name} wants no more texts? Nothing automatic will text them again.`) && touches.optOut.mutate()
              }
            >
              They want no texts
            </Button>
          )
        )}
      </Box>
    </Box>
  );
}
