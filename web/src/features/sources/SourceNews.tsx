import { Box } from "@chakra-ui/react";
import type { Schemas } from "@/api/client";
import { SectionHead } from "@/ui/Page";
import { dayAndClock } from "@/ui/time";

type Told = { zone: string; now: number };

export function Found({ lines, zone, now }: { lines: readonly Schemas["FoundLine"][] } & Told) {
  return (
    <Box mt="6">
      <SectionHead>Found lately</SectionHead>
      {lines.map((l) => (
        <Box key={`${l.formId}${l.at}${l.words}`} fontSize="14px" display="grid" gridTemplateColumns="130px 1fr" gap="3" mb="1">
          <Box fontFamily="mono" fontSize="13px" color="ink2">
            {dayAndClock(l.at, now, zone)}
          </Box>
          <Box>
            <b>{l.form}</b> {l.words}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

export function Refused({ lines, zone, now }: { lines: readonly Schemas["RefusalLine"][] } & Told) {
  if (lines.length === 0) return null;
  return (
    <Box mt="6">
      <SectionHead>Refused at the door</SectionHead>
      {lines.map((l) => (
        <Box key={`${l.lastAt}${l.detail}`} borderLeftWidth="3px" borderColor="cinder" pl="3" mb="3" fontSize="14px">
          <Box>
            {l.detail} {l.form && `(${l.form})`}
          </Box>
          <Box color="ink2">{l.mend}</Box>
          <Box fontFamily="mono" fontSize="12px" color="ink2">
            {l.times === 1 ? "once" : `${l.times} times`}, last {dayAndClock(l.lastAt, now, zone, true)}, from {l.fromAddress}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

const noticeWords = {
  due: "waiting to be fetched",
  "not-chosen": "of forms that are not chosen: choose the form and they are fetched",
  failed: "could not be fetched",
  done: "fetched",
} as const;

export function Notices({ lines }: { lines: readonly Schemas["NoticeLine"][] }) {
  if (lines.length === 0) return null;
  return (
    <Box mt="6">
      <SectionHead>Told of, not here</SectionHead>
      {lines.map((l) => (
        <Box key={`${l.status}${l.reason}`} fontSize="14px" mb="1">
          <b>{l.count}</b> {noticeWords[l.status]}
          {l.reason && l.status !== "not-chosen" && <Box color="ink2">{l.reason}</Box>}
        </Box>
      ))}
    </Box>
  );
}
