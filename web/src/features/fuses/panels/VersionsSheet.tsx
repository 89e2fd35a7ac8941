import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { litTimes } from "@/features/fuses/model/words";
import { Button } from "@/ui/Button";
import { Select } from "@/ui/Field";
import { State } from "@/ui/Page";
import { SideSheet } from "@/ui/SideSheet";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";

type VersionsProps = { whole: Schemas["FuseDetail"]; mayEdit: boolean; dirty: boolean; close: () => void };

/** Every version that was armed: by whom, what changed, what it has lit; two side by side, and one brought back. */
export function VersionsSheet({ whole, mayEdit, dirty, close }: VersionsProps) {
  const fuseId = whole.fuse.id;
  const now = useNow(60_000);
  const list = useQuery({
    queryKey: ["fuse", fuseId, "versions", whole.revision],
    queryFn: () => unwrap(api.GET("/api/fuses/{fuseId}/versions", { params: { path: { fuseId } } })),
  });
  const back = useAct(
    (number: number) =>
      unwrap(
        api.POST("/api/fuses/{fuseId}/versions/{number}/bring-back", {
          params: { path: { fuseId, number } },
          body: { revision: whole.revision },
        }),
      ),
    ["fuse", fuseId],
    ["fuses"],
  );
  const versions = list.data?.versions ?? [];
  const { colleagues } = whole.around;
  return (
    <SideSheet title="Versions" close={close} wide>
      {list.error && <ErrorTold error={list.error} again={() => void list.refetch()} />}
      {list.isPending && <Fetching what="the versions" />}
      {back.error && <ErrorTold error={back.error} />}
      {list.data && versions.length === 0 && <Box>It was never armed. Each version that is armed is kept here.</Box>}
      {list.data?.draft && (
        <Box mb="4">
          <Box fontWeight={600}>The draft against what is armed</Box>
          <Differences of={list.data.draft} none="They do the same." colleagues={colleagues} />
        </Box>
      )}
      {versions.length > 1 && (
        <SideBySide
          fuseId={fuseId}
          numbers={versions.map((v) => v.number)}
          draft={list.data?.draft !== null && !dirty}
          colleagues={colleagues}
        />
      )}
      <Box as="ol" listStyleType="none" aria-label="Versions">
        {versions.map((v) => (
          <Box as="li" key={v.number} borderTopWidth="1px" py="2">
            <Box display="flex" gap="2" alignItems="baseline" flexWrap="wrap">
              <b>v{v.number}</b>
              {v.armed && <State of="whole">armed</State>}
              <Box fontSize="13px" color="ink2">
                {dayAndClock(v.armedAt, now, whole.around.zone)}
                {v.armedBy ? ` by ${v.armedBy}` : ""} · {litTimes(v.burns)}
                {v.burning > 0 ? `, ${v.burning} still burning` : ""}
              </Box>
              {mayEdit && !v.armed && (
                <Button
                  look="quiet"
                  fontSize="13px"
                  ml="auto"
                  disabled={back.isPending || dirty}
                  title={dirty ? "Save or undo what you changed first" : undefined}
                  onClick={() => back.mutate(v.number)}
                >
                  Bring back as a draft
                </Button>
              )}
            </Box>
            {v.number > 1 ? (
              <Differences of={v.changes} none="The same as before." colleagues={colleagues} />
            ) : (
              <Box fontSize="14px" color="ink2">
                {v.sentence}
              </Box>
            )}
          </Box>
        ))}
      </Box>
    </SideSheet>
  );
}

type SideBySideProps = { fuseId: string; numbers: number[]; draft: boolean; colleagues: readonly Schemas["ContextColleague"][] };

function SideBySide({ fuseId, numbers, draft, colleagues }: SideBySideProps) {
  const [from, setFrom] = useState(numbers[1] ?? 0);
  const [to, setTo] = useState(numbers[0] ?? 0);
  const compared = useQuery({
    queryKey: ["fuse", fuseId, "compare", from, to],
    enabled: from !== to,
    queryFn: () => unwrap(api.GET("/api/fuses/{fuseId}/versions/compare", { params: { path: { fuseId }, query: { from, to } } })),
  });
  const pick = (label: string, value: number, onChange: (n: number) => void) => (
    <Select aria-label={label} width="auto" value={value} onChange={(e) => onChange(Number(e.target.value))}>
      {draft && <option value={0}>the draft</option>}
      {numbers.map((n) => (
        <option key={n} value={n}>
          v{n}
        </option>
      ))}
    </Select>
  );
  return (
    <Box mb="4">
      <Box display="flex" gap="2" alignItems="center" mb="1">
        From {pick("From", from, setFrom)} to {pick("To", to, setTo)}
      </Box>
      {compared.error && <ErrorTold error={compared.error} />}
      {compared.data && <Differences of={compared.data.differences} none="They do the same." colleagues={colleagues} />}
    </Box>
  );
}

type DifferencesProps = { of: readonly Schemas["FuseDifference"][]; none: string; colleagues: readonly Schemas["ContextColleague"][] };

/** What differs, place by place; as it was and as it is stand under one another, colleagues by their names. */
export function Differences({ of, none, colleagues }: DifferencesProps) {
  const named = (text: string) => colleagues.reduce((so, c) => so.replaceAll(c.id, c.name), text);
  if (of.length === 0) return <Box color="ink2">{none}</Box>;
  return (
    <chakra.ul listStyleType="none" fontSize="14px">
      {of.map((d, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: differences come in reading order and do not move
        <Box as="li" key={i} py="1">
          <Box color="ink2" fontSize="13px">
            {d.where}
            {d.what ? `: ${d.what}` : d.before === null ? " is new" : " is gone"}
          </Box>
          {d.before !== null && <Line sign="−" colour="cinder" text={named(d.before)} word="was" />}
          {d.after !== null && <Line sign="+" colour="verdigris" text={named(d.after)} word="is" />}
        </Box>
      ))}
    </chakra.ul>
  );
}

function Line({ sign, colour, text, word }: { sign: string; colour: string; text: string; word: string }) {
  return (
    <Box display="grid" gridTemplateColumns="16px 1fr" borderLeftWidth="3px" borderColor={colour} pl="2">
      <Box as="span" color={colour} fontFamily="mono" aria-label={word} role="img">
        {sign}
      </Box>
      <Box whiteSpace="pre-wrap" overflowWrap="anywhere">
        {text === "" ? "nothing" : text}
      </Box>
    </Box>
  );
}
