import { Box } from "@chakra-ui/react";
import type { Schemas } from "@/api/client";
import { clock, day, span } from "@/ui/time";
import { type Mark, markOf, sayLine } from "./storyWords";

type StoryProps = { lines: readonly Schemas["StoryLine"][]; zone: string; now: number };

const looks: Record<Mark, object> = {
  arrived: { bg: "ink", borderColor: "ink" },
  went: { bg: "verdigris", borderColor: "verdigris" },
  person: { bg: "sulphur", borderColor: "ink" },
  waits: { bg: "transparent", borderColor: "slate" },
  failed: { bg: "cinder", borderColor: "cinder" },
  thought: { bg: "transparent", borderColor: "line" },
};

/** All that happened, the newest at the end, each with how long after they asked. */
export function Story({ lines, zone, now }: StoryProps) {
  return (
    <Box as="ol" listStyleType="none" position="relative" maxW="780px">
      {lines.map((line, i) => {
        const said = sayLine(line);
        const mark = markOf(line.kind);
        const opens = line.kind === "submitted";
        return (
          <Box as="li" key={line.id} display="grid" gridTemplateColumns="76px 18px 1fr" columnGap="2" pt={opens && i > 0 ? "5" : "0"}>
            <Box
              textAlign="right"
              fontFamily="mono"
              fontSize="13px"
              pt="5px"
              title={`${day(line.at, now, zone) || "today"} ${clock(line.at, zone)}`}
            >
              {opens ? (
                <Box as="span" color="ink2">
                  {clock(line.at, zone)}
                </Box>
              ) : (
                `+${span(line.afterSeconds)}`
              )}
            </Box>
            <Box position="relative" aria-hidden>
              <Box
                position="absolute"
                left="8px"
                top={opens ? "12px" : "0"}
                bottom={i === lines.length - 1 || lines[i + 1]?.kind === "submitted" ? "calc(100% - 12px)" : "0"}
                width="2px"
                bg="line"
              />
              <Box
                position="absolute"
                left="4.5px"
                top="10px"
                width="9px"
                height="9px"
                borderWidth="1.5px"
                transform="rotate(45deg)"
                {...looks[mark]}
                css={{ boxShadow: "0 0 0 2px var(--chakra-colors-paper)" }}
              />
            </Box>
            <Box pb="2" pt="3px" minW="0">
              <Box color={mark === "thought" ? "ink2" : "ink"}>
                <Box as="span" fontWeight={mark === "thought" ? 400 : 600}>
                  {said.what}
                </Box>
                {said.why && (
                  <Box as="span" color={mark === "failed" ? "cinder" : "ink2"}>
                    {" "}
                    {said.why}
                  </Box>
                )}
              </Box>
              {line.fuse && !sameAsBefore(lines[i - 1], line) && (
                <Box fontSize="12px" color="ink2">
                  {[line.fuse, line.band].filter(Boolean).join(" · ")}
                </Box>
              )}
              {line.sent && <Sent sent={line.sent} />}
              {line.answer && (
                <Box as="details" fontSize="12px" color="ink2">
                  <Box as="summary" cursor="pointer" width="fit-content">
                    what came back
                  </Box>
                  <Box
                    as="pre"
                    fontFamily="mono"
                    whiteSpace="pre-wrap"
                    overflowWrap="anywhere"
                    bg="card"
                    p="2"
                    borderWidth="1px"
                    borderColor="line2"
                    borderRadius="sm"
                  >
                    {line.answer}
                  </Box>
                </Box>
              )}
            </Box>
          </Box>
        );
      })}
    </Box>
  );
}

// The fuse and band are said once for lines that follow one another.
const sameAsBefore = (before: Schemas["StoryLine"] | undefined, line: Schemas["StoryLine"]) =>
  before?.fuse === line.fuse && before?.band === line.band;

function Sent({ sent }: { sent: Schemas["StorySent"] }) {
  return (
    <Box
      mt="1"
      bg="card"
      borderLeftWidth="3px"
      borderColor={sent.kind === "text" ? "sulphur" : "line"}
      px="3"
      py="2"
      fontSize="14px"
      maxW="600px"
    >
      <Box fontFamily="mono" fontSize="12px" color="ink2">
        {sent.kind === "ring-through" ? "the team hears" : `to ${sent.to ?? "nobody"}`}
        {sent.segments && sent.segments > 1 ? ` · ${sent.segments} segments` : ""}
        {sent.attempts > 1 ? ` · ${sent.attempts} attempts` : ""}
        {sent.status === "done"
          ? ""
          : ` · ${{ due: "waits", sending: "on its way", failed: "failed", cancelled: "cancelled", done: "" }[sent.status]}`}
      </Box>
      <Box whiteSpace="pre-wrap" overflowWrap="anywhere" textDecoration={sent.status === "cancelled" ? "line-through" : undefined}>
        {sent.words}
      </Box>
    </Box>
  );
}
