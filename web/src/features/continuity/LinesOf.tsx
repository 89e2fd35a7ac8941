import { Box, chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { withClient } from "@/app/useChosenClient";
import { usePerson } from "@/app/useSession";
import { State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { CutLine } from "./CutLine";
import { MiniLine } from "./JointLine";
import { lineWord } from "./lineWords";
import { useLines } from "./useLines";

const mostDrawn = 5;

const many = (n: number, word: string) => (n === 1 ? `1 ${word}` : `${n} ${word}s`);

/** Lines counted, in words: `7 lines whole, 1 cut`. */
export function countLines(lines: readonly Pick<Schemas["LineRow"], "state">[]): string {
  const of = (state: Schemas["LineState"]) => lines.filter((l) => l.state === state).length;
  const parts = [
    of("cut") > 0 ? `${of("cut")} cut` : null,
    of("unproven") > 0 ? `${of("unproven")} unproven` : null,
    of("whole") > 0 ? `${of("whole")} whole` : null,
  ];
  return `${many(lines.length, "line")}: ${parts.filter(Boolean).join(", ")}`;
}

/** Lines counted, with the cause of the first cut. */
function Counted({ lines }: { lines: readonly Schemas["LineRow"][] }) {
  const first = lines.find((l) => l.state === "cut")?.cuts[0];
  return (
    <Box as="span" color={first ? "cinder" : "ink2"}>
      {countLines(lines)}
      {first && (
        <Box as="span" color="ink">
          {" "}
          · {first.cause}
        </Box>
      )}
    </Box>
  );
}

/** The lines that a fuse is part of, counted, with the first cut: for rows. */
export function LinesCounted({ lines }: { lines: readonly Schemas["LineRow"][] }) {
  if (lines.length === 0) return null;
  return (
    <Box fontSize="14px" mt="1" display="flex" gap="3" alignItems="center" flexWrap="wrap">
      {lines.slice(0, mostDrawn).map((line) => (
        <MiniLine key={line.formId} line={line} width={96} />
      ))}
      <Counted lines={lines} />
    </Box>
  );
}

/** The lines that a fuse or a connection is part of: counted, with the first cut; each with its joints when opened. */
export function LinesOf({ fuse, connection, clientId }: { fuse?: string; connection?: string; clientId: string }) {
  const person = usePerson();
  const now = useNow(10_000);
  const client = person.clients.find((c) => c.id === clientId);
  const lines = useLines({ client: client?.key, ...(fuse ? { fuse } : {}), ...(connection ? { connection } : {}) });
  const rows = lines.data?.lines ?? [];
  const clientKey = person.clients.length > 1 ? client?.key : undefined;
  if (rows.length === 0) return null;
  return (
    <chakra.details fontSize="14px" my="2">
      <chakra.summary cursor="pointer">
        <Counted lines={rows} />
      </chakra.summary>
      <Box as="ul" listStyleType="none" mt="1">
        {rows.map((line) => (
          <Box
            as="li"
            key={line.formId}
            display="grid"
            gridTemplateColumns={{ base: "1fr", md: "minmax(140px, 220px) 210px 1fr" }}
            columnGap="4"
            alignItems="start"
            borderTopWidth="1px"
            borderColor="line2"
            py="1.5"
          >
            <Box>
              <Link to={withClient(`/sources/${line.formId}`, clientKey)}>
                <u>{line.form}</u>
              </Link>{" "}
              <Box as="span" color="ink2" fontSize="13px">
                {line.source}
              </Box>
            </Box>
            <MiniLine line={line} width={200} />
            <Box>
              {line.cuts[0] ? (
                <CutLine cut={line.cuts[0]} now={now} clientKey={clientKey} may={client?.may.includes("edit-sources") ?? false} />
              ) : (
                <State of={lineWord[line.state].of}>{lineWord[line.state].word}</State>
              )}
            </Box>
          </Box>
        ))}
      </Box>
    </chakra.details>
  );
}
