import { Box, chakra } from "@chakra-ui/react";
import type { Schemas } from "@/api/client";
import { stopsOf } from "@/features/fuses/model/dryRun";
import type { DryRun } from "@/features/fuses/model/useDryRun";
import { Button } from "@/ui/Button";
import { cityOf, clock, day, secondsBetween, span } from "@/ui/time";

type MomentsProps = { told: Schemas["DryRunTold"]; run: DryRun; definition: Schemas["FuseDetail"] };

/** Every moment in time order: pressed through one by one, or jumped to. */
export function DryMoments({ told, run, definition: whole }: MomentsProps) {
  const { moments } = told;
  const stops = stopsOf(moments);
  const shown = run.place === null ? moments.length : Math.min(run.place, moments.length);
  const before = stops.filter((s) => s < shown).at(-1) ?? 0;
  const after = stops.find((s) => s > shown);
  const zone = whole.around.zone;
  const last = moments[shown - 1];
  const names = new Map(whole.definition.bands.flatMap((b) => [[b.id, b.name] as const, ...b.steps.map((s) => [s.id, s.name] as const)]));
  return (
    <Box mt="3">
      <Box display="flex" gap="2" alignItems="center" flexWrap="wrap" position="sticky" top="-16px" bg="card" py="2" zIndex="1">
        <Button look="soft" size="small" disabled={shown === 0} onClick={() => run.setPlace(0)}>
          To the start
        </Button>
        <Button look="soft" size="small" aria-label="The moment before" disabled={shown === 0} onClick={() => run.setPlace(before)}>
          ‹
        </Button>
        <Button size="small" disabled={after === undefined} onClick={() => run.setPlace(after ?? null)}>
          Next moment
        </Button>
        <Button look="soft" size="small" disabled={shown === moments.length} onClick={() => run.setPlace(null)}>
          To the end
        </Button>
        <Box role="status" fontFamily="mono" fontSize="12px" color="ink2" width="full">
          {last
            ? `${clock(last.at, zone)} in ${cityOf(zone)}, ${span(secondsBetween(told.litAt, last.at))} after they asked`
            : `${clock(told.litAt, zone)} in ${cityOf(zone)}: they ask`}
        </Box>
      </Box>
      <Box as="ol" listStyleType="none" aria-label="What happens">
        {moments.slice(0, shown).map((m, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: moments come in one order, and the list only grows or is cut
          <Box as="li" key={i} borderTopWidth="1px" borderColor="line2" py="1.5" display="grid" gridTemplateColumns="84px 1fr" gap="2">
            <Box fontFamily="mono" fontSize="12px" color="ink2" title={`${clock(m.at, told.zone)} where they live`}>
              {clock(m.at, zone)}
              <Box>{day(m.at, Date.parse(told.litAt), zone) || `+${span(secondsBetween(told.litAt, m.at))}`}</Box>
            </Box>
            <Box minW="0" fontSize="14px">
              <Box>
                <Said moment={m} name={names.get(m.stepId ?? m.bandId ?? "")} />
              </Box>
              {m.message && <InFull message={m.message} />}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

const kindWords: Record<string, string> = {
  "band-lit": "band lit",
  "band-passed": "band passed by",
  "step-waits": "",
  "step-sent": "",
  "step-done": "",
  "step-cancelled": "left out",
  "step-failed": "failed",
  "burn-stopped": "stops",
  "burn-ended": "burnt out",
  "burn-held": "held",
  "reply-read": "read",
  noticed: "told",
  replied: "They reply",
};

function Said({ moment, name }: { moment: Schemas["DryMoment"]; name: string | undefined }) {
  const kind = kindWords[moment.kind] ?? "";
  const broken = moment.kind === "step-failed" || moment.kind === "fuse-not-lit";
  return (
    <>
      {name && <b>{name} </b>}
      {kind && (
        <Box as="span" color={broken ? "cinder" : "ink2"}>
          {kind}:{" "}
        </Box>
      )}
      {moment.words}
    </>
  );
}

// What the words are about comes first; settings that only say where it goes are told in small type.
function InFull({ message }: { message: Schemas["DryMessage"] }) {
  const { words, subject, body, ...others } = message.settings;
  const rest = Object.entries(others).filter(([, v]) => v !== "");
  return (
    <Box bg="paper" borderLeftWidth="4px" borderColor={message.lane === "lead" ? "sulphur" : "line"} px="3" py="1.5" mt="1">
      {subject && <Box fontWeight={600}>{subject}</Box>}
      {(words ?? body) && (
        <Box whiteSpace="pre-wrap" overflowWrap="anywhere">
          {words ?? body}
        </Box>
      )}
      {rest.length > 0 && (
        <chakra.dl fontFamily="mono" fontSize="12px" color="ink2" display="grid" gridTemplateColumns="auto 1fr" columnGap="2">
          {rest.map(([key, value]) => (
            <Box key={key} display="contents">
              <dt>{key.split(".").at(-1)?.replaceAll("_", " ")}</dt>
              <chakra.dd overflowWrap="anywhere" whiteSpace="pre-wrap">
                {value}
              </chakra.dd>
            </Box>
          ))}
        </chakra.dl>
      )}
      {message.size && (
        <Box fontSize="12px" color="ink2">
          {message.size.segments === 1 ? "1 segment" : `${message.size.segments} segments`}
        </Box>
      )}
    </Box>
  );
}
