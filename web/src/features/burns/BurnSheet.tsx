import { Box, chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { may, usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { State } from "@/ui/Page";
import { SideSheet } from "@/ui/SideSheet";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { cityOf, clock, dayAndClock, secondsBetween, span } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { standing, useBurn } from "./useBurns";

type Act = { how: "stop" | "let-go" | "light" | "run-again" } | { how: "skip" | "replay"; step: string };
type Step = Schemas["BurnStepTold"];

/** One burn step by step: what went in, what came out, what was decided and when; and what a person may do with it. */
export function BurnSheet({ id, zone, close }: { id: string; zone: string; close: () => void }) {
  const person = usePerson();
  const mayTouch = may(person, "touch-leads");
  const now = useNow(2000);
  const found = useBurn(id);
  const burn = found.data;
  const act = useAct(
    async (what: Act): Promise<unknown> => {
      const params = { path: { burnId: id } };
      switch (what.how) {
        case "stop":
          return unwrap(api.POST("/api/burns/{burnId}/stop", { params }));
        case "let-go":
          return unwrap(api.POST("/api/burns/{burnId}/let-go", { params }));
        case "run-again":
          return unwrap(api.POST("/api/burns/{burnId}/run-again", { params }));
        case "skip":
          return unwrap(api.POST("/api/burns/{burnId}/skip", { params, body: { stepId: what.step } }));
        case "replay":
          return unwrap(api.POST("/api/burns/{burnId}/replay", { params, body: { stepId: what.step } }));
        case "light":
          return unwrap(
            api.POST("/api/fuses/{fuseId}/light", {
              params: { path: { fuseId: burn?.row.fuseId ?? "" } },
              body: { ids: [burn?.row.leadId ?? ""], filter: null },
            }),
          );
      }
    },
    ["burns"],
    ["lead"],
  );
  return (
    <SideSheet title={burn ? `${burn.row.lead}'s burn` : "A burn"} close={close} wide>
      {found.error && <ErrorTold error={found.error} again={() => void found.refetch()} />}
      {found.isPending && <Fetching what="the burn" />}
      {burn && (
        <>
          <Head burn={burn} now={now} zone={zone} />
          {mayTouch && (
            <Box display="flex" gap="2" mb="3" flexWrap="wrap">
              {burn.row.setAside && (
                <Button look="primary" size="small" disabled={act.isPending} onClick={() => act.mutate({ how: "run-again" })}>
                  Run it again
                </Button>
              )}
              {burn.row.held && (
                <Button look="primary" size="small" disabled={act.isPending} onClick={() => act.mutate({ how: "let-go" })}>
                  Let it go on
                </Button>
              )}
              {burn.hears && (
                <Button look="soft" size="small" disabled={act.isPending} onClick={() => act.mutate({ how: "stop" })}>
                  Stop
                </Button>
              )}
              {!burn.hears && burn.armed && (
                <Button look="soft" size="small" disabled={act.isPending} onClick={() => act.mutate({ how: "light" })}>
                  Light it again
                </Button>
              )}
            </Box>
          )}
          {act.error && <ErrorTold error={act.error} />}
          <chakra.h3 fontSize="14px" fontWeight={700} borderTopWidth="1px" borderColor="ink" pt="2">
            Its steps
          </chakra.h3>
          {burn.steps.length === 0 && <Box color="ink2">No band was entered.</Box>}
          <chakra.ol listStyleType="none">
            {burn.steps.map((s) => (
              <StepItem
                key={`${s.stepId} ${s.entry}`}
                step={s}
                litAt={burn.row.litAt}
                zone={s.lane === "lead" ? burn.zone : zone}
                now={now}
                busy={act.isPending}
                onSkip={mayTouch && s.status === "waiting" ? () => act.mutate({ how: "skip", step: s.stepId }) : undefined}
                onReplay={
                  mayTouch && (s.status === "failed" || s.status === "cancelled")
                    ? () => act.mutate({ how: "replay", step: s.stepId })
                    : undefined
                }
              />
            ))}
            {burn.silences.map((s) => (
              <Box as="li" key={s.band} borderTopWidth="1px" borderColor="line2" py="2" fontSize="14px">
                <b>{s.band}</b>, unless they write back before {dayAndClock(s.until, now, zone)}
              </Box>
            ))}
          </chakra.ol>
          <chakra.h3 fontSize="14px" fontWeight={700} borderTopWidth="1px" borderColor="ink" pt="2" mt="3">
            What was decided, and when
          </chakra.h3>
          <chakra.ol listStyleType="none" fontSize="13px">
            {burn.moments.map((m, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: moments are told once, in order
              <Box as="li" key={i} display="grid" gridTemplateColumns="70px 1fr" gap="2" py="1" borderTopWidth="1px" borderColor="line2">
                <Box fontFamily="mono" fontSize="12px" color="ink2">
                  +{span(secondsBetween(burn.row.litAt, m.at))}
                </Box>
                <Box overflowWrap="anywhere">
                  <Box as="span" color="ink2">
                    {[m.kind.replaceAll("-", " "), m.step ?? m.band].filter(Boolean).join(" · ")}
                  </Box>
                  {m.words && <Box>{m.words}</Box>}
                </Box>
              </Box>
            ))}
          </chakra.ol>
        </>
      )}
    </SideSheet>
  );
}

function Head({ burn, now, zone }: { burn: Schemas["BurnDetail"]; now: number; zone: string }) {
  const is = standing(burn.row);
  const late = secondsBetween(burn.submittedAt, burn.row.litAt);
  return (
    <Box mb="3" fontSize="14px">
      <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap">
        <State of={is.of}>{is.word}</State>
        <chakra.span textDecoration="underline" textUnderlineOffset="3px">
          <Link to={`/fuses/${burn.row.fuseId}?open=burns`}>{burn.row.fuse}</Link>
        </chakra.span>
        <span>for</span>
        <chakra.span textDecoration="underline" textUnderlineOffset="3px">
          <Link to={`/leads/${burn.row.leadId}`}>{burn.row.lead}</Link>
        </chakra.span>
      </Box>
      <Box color="ink2" mt="1">
        Lit {dayAndClock(burn.row.litAt, now, zone, true)}
        {late >= 1 ? `, ${span(late)} after they asked` : ""}
        {burn.row.held ? `; held: ${burn.row.held}` : ""}
        {burn.row.setAside ? `; set aside: ${burn.row.setAside}` : ""}
        {burn.row.stop ? `; stopped: ${burn.row.stop}` : ""}
        {burn.row.nextAt ? `; next in ${span(secondsBetween(now, burn.row.nextAt))}` : ""}
        {burn.row.status === "listening" ? "; nothing waits, it listens for what they do" : ""}.
      </Box>
      {burn.reply && (
        <Box mt="1">
          They wrote “{burn.reply.text}”: {burn.reply.choice ? `chose ${burn.reply.choice}` : burn.reply.meaning}.
        </Box>
      )}
    </Box>
  );
}

type StepItemProps = {
  step: Step;
  litAt: string;
  zone: string;
  now: number;
  busy: boolean;
  onSkip: (() => void) | undefined;
  onReplay: (() => void) | undefined;
};

const stepWords = {
  waiting: { word: "waits", of: "waiting" },
  sent: { word: "under way", of: "waiting" },
  done: { word: "done", of: "whole" },
  failed: { word: "failed", of: "broken" },
  cancelled: { word: "cancelled", of: "waiting" },
} as const;

function StepItem({ step, litAt, zone, now, busy, onSkip, onReplay }: StepItemProps) {
  const is = stepWords[step.status];
  const inputs = Object.entries(step.settings ?? {}).filter(([key]) => key !== "words");
  const results = Object.entries(step.results ?? {});
  return (
    <Box as="li" borderTopWidth="1px" borderColor="line2" py="2">
      <Box display="flex" gap="2" alignItems="baseline" flexWrap="wrap">
        <chakra.span fontWeight={600} textDecoration={step.status === "cancelled" ? "line-through" : undefined}>
          {step.step}
        </chakra.span>
        <State of={is.of}>{is.word}</State>
        <Box as="span" fontFamily="mono" fontSize="12px" color="ink2" title={`on ${cityOf(zone)}'s clock`}>
          {step.status === "waiting"
            ? `${dayAndClock(step.dueAt, now, zone)}, in ${span(secondsBetween(now, step.dueAt))}`
            : `+${span(secondsBetween(litAt, step.dueAt))} · ${clock(step.dueAt, zone)}`}
        </Box>
        {(onSkip || onReplay) && (
          <Button look="quiet" fontSize="13px" ml="auto" disabled={busy} onClick={onSkip ?? onReplay}>
            {onSkip ? "Leave out" : "Do it again"}
          </Button>
        )}
      </Box>
      <Box fontSize="13px" color={step.status === "failed" ? "cinder" : "ink2"}>
        {[
          step.band,
          step.entry > 1 && `entered for the ${step.entry}. time`,
          step.try > 1 && `tried for the ${step.try}. time`,
          step.reason !== "done" && step.reason,
        ]
          .filter(Boolean)
          .join(" · ")}
      </Box>
      {step.settings?.words && (
        <Box whiteSpace="pre-wrap" fontSize="14px" borderLeftWidth="3px" borderColor="line" pl="2" mt="1" overflowWrap="anywhere">
          {step.settings.words}
        </Box>
      )}
      {inputs.length > 0 && <Pairs of={inputs} label="went in" />}
      {results.length > 0 && <Pairs of={results} label="came out" />}
      {step.deliveryId && (
        <chakra.span fontSize="13px" textDecoration="underline" textUnderlineOffset="3px">
          <Link to={`/deliveries/${step.deliveryId}`}>The delivery, with what was sent and answered</Link>
        </chakra.span>
      )}
    </Box>
  );
}

const Pairs = ({ of, label }: { of: [string, string][]; label: string }) => (
  <Box as="dl" fontSize="12px" mt="1" aria-label={label}>
    {of.map(([key, value]) => (
      <Box key={key} display="grid" gridTemplateColumns="110px 1fr" gap="2">
        <Box as="dt" color="ink2">
          {label === "came out" ? `→ ${key}` : key}
        </Box>
        <Box as="dd" fontFamily="mono" overflowWrap="anywhere" whiteSpace="pre-wrap">
          {value}
        </Box>
      </Box>
    ))}
  </Box>
);
