import { Box } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { Raw } from "@/ui/Copy";
import { State } from "@/ui/Page";
import { clock, span } from "@/ui/time";
import { pretty } from "./pretty";
import { viaWord } from "./words";

const statusWords = {
  received: "being read",
  processed: "became a lead",
  waiting: "waits",
  unreadable: "unreadable",
  stuck: "stuck",
  held: "in the holding pen",
  refused: "refused",
  unconfirmed: "waits for their confirming",
} as const;

type SampleProps = { sample: Schemas["FormSample"]; shown: boolean; onShow: () => void; time: string; zone: string; now: number };

/** One submission as it came: who sent it, when, how long it was under way, and the body. */
export function Sample({ sample, shown, onShow, time, zone }: SampleProps) {
  const bad = sample.status === "unreadable" || sample.status === "stuck";
  return (
    <Box
      as="li"
      borderBottomWidth="1px"
      borderColor="line2"
      py="2"
      borderLeftWidth="3px"
      pl="3"
      borderLeftColor={shown ? "ink" : "transparent"}
    >
      <Box display="flex" gap="3" alignItems="center" flexWrap="wrap">
        <Box fontFamily="mono" fontSize="13px">
          {time}
        </Box>
        <State of={bad ? "broken" : sample.status === "processed" ? "whole" : "waiting"}>{statusWords[sample.status]}</State>
        {sample.test && <State of="waiting">test</State>}
        {sample.junk > 0 && <State of={sample.junk >= 60 ? "broken" : "waiting"}>junk {sample.junk}</State>}
        {sample.leadId && (
          <Link to={`/leads/${sample.leadId}`}>
            <u>the lead</u>
          </Link>
        )}
        {!shown && (
          <Button look="quiet" fontSize="13px" onClick={onShow} aria-label={`Show the submission of ${time}`}>
            show
          </Button>
        )}
      </Box>
      {sample.reason && (
        <Box fontSize="13px" color={bad ? "cinder" : "ink2"}>
          {sample.reason}
        </Box>
      )}
      {shown && <How sample={sample} zone={zone} />}
    </Box>
  );
}

function How({ sample, zone }: { sample: Schemas["FormSample"]; zone: string }) {
  const facts: [string, string | null][] = [
    ["how", viaWord(sample.via) + (sample.person ? `, ${sample.person}` : "")],
    ["pressed", sample.sentAt && clock(sample.sentAt, zone)],
    [
      "under way",
      sample.lateSeconds === null
        ? null
        : span(sample.lateSeconds) + (sample.toldSeconds !== null ? `, told after ${span(sample.toldSeconds)}` : ""),
    ],
    ["from", sample.from],
    ["with", sample.agent],
    ["on the page", sample.page],
    ["junk, because", sample.junkBecause.join("; ") || null],
  ];
  return (
    <>
      <Box as="dl" display="grid" gridTemplateColumns="96px 1fr" columnGap="3" fontSize="13px" my="2">
        {facts
          .filter(([, value]) => value)
          .map(([name, value]) => (
            <Box key={name} display="contents">
              <Box as="dt" color="ink2">
                {name}
              </Box>
              <Box as="dd" overflowWrap="anywhere">
                {value}
              </Box>
            </Box>
          ))}
      </Box>
      <Box fontSize="12px" color="ink2">
        as it came, {sample.contentType || "no content type"}
      </Box>
      <Raw text={pretty(sample.contentType, sample.raw)} />
    </>
  );
}
