import { Box } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Problem } from "@/api/client";
import { Button } from "@/ui/Button";
import { runningSpan } from "@/ui/time";
import { callNow, phoneWord } from "./callWords";
import { type Call, useHangUp } from "./useCalls";

type CallLineProps = { call: Call; now: number; mayHangUp: boolean; lead?: ReactNode };

/**
 * A call as a line between phones: the team's on the left, the lead's on the right. It is hollow while somebody is
 * rung, and solid once two talk; the clock on it tells for how long.
 */
export function CallLine({ call, now, mayHangUp, lead }: CallLineProps) {
  const hangUp = useHangUp();
  const team = call.phones.filter((p) => !p.ofLead);
  const theirs = call.phones.find((p) => p.ofLead);
  const { words, seconds } = callNow(call, now);
  const joined = Boolean(call.joinedAt);
  return (
    <Box role="group" aria-label={`Call with ${call.lead}`} py="2" borderBottomWidth="1px" borderColor="line2">
      <Box display="flex" alignItems="center" gap="3" flexWrap={{ base: "wrap", md: "nowrap" }}>
        <Box flexShrink={0} maxW={{ base: "full", md: "45%" }} fontSize="14px" lineHeight="20px">
          {team.map((phone, i) => (
            <Box
              // biome-ignore lint/suspicious/noArrayIndexKey: phones never change their places
              key={i}
              color={phone.state === "over" || phone.state === "closing" ? "ink2" : "ink"}
              display="flex"
              gap="2"
            >
              <Box as="span" fontFamily="mono" aria-hidden>
                {phone.state === "over" || phone.state === "closing" ? "◇" : "◆"}
              </Box>
              <span>
                <b>{phone.who}</b> {phoneWord(phone)}
              </span>
            </Box>
          ))}
        </Box>
        <Box flex="1" minW="120px" display="flex" alignItems="center" gap="2" fontFamily="mono" fontSize="12px">
          <Wire solid={joined} />
          <Box as="span" whiteSpace="nowrap" fontWeight={joined ? 700 : 400}>
            {words} {runningSpan(seconds)}
          </Box>
          <Wire solid={joined} />
        </Box>
        <Box fontSize="14px" lineHeight="20px" minW="0" overflowWrap="anywhere">
          <b>{lead ?? call.lead}</b> <Box as="span">{theirs ? phoneWord(theirs) : "is not rung yet"}</Box>
        </Box>
        {mayHangUp && (
          <Button look="plain" size="small" flexShrink={0} onClick={() => hangUp.mutate(call.id)} disabled={hangUp.isPending}>
            Hang up
          </Button>
        )}
      </Box>
      {hangUp.error && (
        <Box role="alert" fontSize="13px" color="cinder">
          {hangUp.error instanceof Problem ? (hangUp.error.detail ?? hangUp.error.title) : "Lit Fuse did not answer; try again."}
        </Box>
      )}
    </Box>
  );
}

const Wire = ({ solid }: { solid: boolean }) => (
  <Box
    flex="1"
    minW="16px"
    height={solid ? "6px" : "0"}
    bg={solid ? "sulphur" : undefined}
    borderWidth={solid ? "1px" : "0"}
    borderTopWidth={solid ? "1px" : "2px"}
    borderStyle={solid ? "solid" : "dashed"}
    borderColor={solid ? "ink" : "ink2"}
    aria-hidden
  />
);
