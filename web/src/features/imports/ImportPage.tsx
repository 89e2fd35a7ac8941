import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { PageHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock, secondsBetween, span } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { ReadingPart } from "./ReadingPart";

const many = (n: number) => n.toLocaleString("en-GB");

const statusWords: Record<Schemas["ImportStatus"], { word: string; of: "whole" | "broken" | "waiting" }> = {
  ready: { word: "nothing imported yet", of: "waiting" },
  running: { word: "importing", of: "waiting" },
  done: { word: "imported", of: "whole" },
  cancelled: { word: "cancelled", of: "broken" },
  undoing: { word: "being undone", of: "waiting" },
  undone: { word: "undone", of: "waiting" },
  failed: { word: "failed", of: "broken" },
};

/** One file: what was found in it, what importing would do, how far it is; cancel and undo. */
export function ImportPage() {
  const { importId = "" } = useParams();
  const whole = useQuery({
    queryKey: ["import", importId],
    queryFn: () => unwrap(api.GET("/api/imports/{importId}", { params: { path: { importId } } })),
    refetchInterval: (q) => (q.state.data && ["running", "undoing"].includes(q.state.data.import.status) ? 1000 : false),
  });
  if (whole.error)
    return (
      <Box p="5">
        <PageHead title="Import" />
        <ErrorTold error={whole.error} again={() => void whole.refetch()} />
      </Box>
    );
  return whole.data ? (
    <Whole key={importId} whole={whole.data} />
  ) : (
    <Box p="5">
      <Fetching what="the file" />
    </Box>
  );
}

function Whole({ whole }: { whole: Schemas["ImportDetail"] }) {
  const line = whole.import;
  const chosen = useChosenClient();
  const person = usePerson();
  const now = useNow(1000);
  const client = person.clients.find((c) => c.id === line.clientId);
  const may = client?.may.includes("edit-sources") ?? false;
  const [lights, setLights] = useState(false);
  const path = { params: { path: { importId: line.id } } };
  const stale: string[][] = [["import", line.id], ["imports"], ["sources"], ["leads"]];
  const start = useAct(() => unwrap(api.POST("/api/imports/{importId}/start", { ...path, body: { lights } })), ...stale);
  const cancel = useAct(() => unwrap(api.POST("/api/imports/{importId}/cancel", path)), ...stale);
  const undo = useAct(() => unwrap(api.POST("/api/imports/{importId}/undo", path)), ...stale);
  const error = start.error ?? cancel.error ?? undo.error;
  const state = statusWords[line.status];
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead
        title={line.fileName}
        beside={
          <>
            <State of={state.of}>{state.word}</State> {line.client} · {line.source} · {line.madeBy ?? "picked up by itself"}{" "}
            {dayAndClock(line.madeAt, now, client?.zone ?? "UTC")}
          </>
        }
      >
        {may && line.status === "ready" && (
          <Button look="primary" disabled={start.isPending || !whole.preview} onClick={() => start.mutate()}>
            Import it
          </Button>
        )}
        {may && line.status === "running" && (
          <Button disabled={cancel.isPending} onClick={() => cancel.mutate()}>
            Cancel
          </Button>
        )}
        {may && ["done", "cancelled", "failed"].includes(line.status) && line.newLeads + line.updates > 0 && (
          <Button disabled={undo.isPending} onClick={() => undo.mutate()}>
            Undo the import
          </Button>
        )}
      </PageHead>
      {error && <ErrorTold error={error} />}
      {line.status !== "ready" && <Progress line={line} now={now} />}
      {line.reason && (
        <Box borderLeftWidth="4px" borderColor="cinder" bg="card" p="3" my="3">
          {line.reason}
        </Box>
      )}
      {line.status === "ready" && whole.preview && (
        <>
          <chakra.label display="flex" gap="2" alignItems="center" minH="30px" mb="1">
            <input type="checkbox" checked={lights} onChange={(e) => setLights(e.target.checked)} /> Let them light fuses, as if they had
            just been sent
          </chakra.label>
          <Box fontSize="13px" color="ink2" mb="5">
            {lights
              ? "Whoever asked within a fuse's age limit is written to."
              : "Nobody is written to and no team is told; they stand among the leads, and nobody waits for them."}
          </Box>
          <Preview preview={whole.preview} columns={whole.reading.columns} />
          <ReadingPart whole={whole} />
        </>
      )}
      {line.badRows > 0 && line.status !== "ready" && (
        <Button look="soft" asChild mt="4">
          <a href={`/api/imports/${line.id}/bad-rows.csv`}>Get the {many(line.badRows)} rows that could not be imported</a>
        </Button>
      )}
      {line.status === "done" && (
        <Box mt="4">
          <Link to={withClient("/leads", chosen?.key)}>
            <u>See them among the leads</u>
          </Link>
        </Box>
      )}
    </Box>
  );
}

function Progress({ line, now }: { line: Schemas["ImportLine"]; now: number }) {
  const share = line.status === "running" ? Math.min(1, line.bytesDone / Math.max(1, line.bytes)) : 1;
  const took = line.startedAt ? secondsBetween(line.startedAt, line.endedAt ?? now) : 0;
  const x = 4 + share * 592;
  return (
    <Box mb="3">
      <Box maxW="600px">
        <svg
          viewBox="0 0 600 20"
          width="100%"
          role="progressbar"
          aria-label="Read"
          aria-valuenow={Math.round(share * 100)}
          aria-valuemin={0}
          aria-valuemax={100}
        >
          <line x1="4" y1="10" x2="596" y2="10" stroke="var(--chakra-colors-line)" strokeWidth="2" />
          <line x1="4" y1="10" x2={x} y2="10" stroke="var(--chakra-colors-ink)" strokeWidth="3" />
          <path d={`M${x - 7} 10l7 -7l7 7l-7 7z`} fill="var(--chakra-colors-sulphur)" stroke="var(--chakra-colors-ink)" />
        </svg>
      </Box>
      <Box role="status" fontFamily="mono" fontSize="14px">
        {many(line.rowsDone)} rows in {span(took)}: {many(line.newLeads)} new, {many(line.updates)} updates, {many(line.doubles)} here
        already, {many(line.badRows)} not readable
      </Box>
    </Box>
  );
}

const outcomeWords: Record<Schemas["RowOutcome"], { word: string; of: "whole" | "broken" | "waiting" | "plain" }> = {
  new: { word: "new", of: "whole" },
  update: { word: "update", of: "plain" },
  double: { word: "here already", of: "waiting" },
  bad: { word: "not readable", of: "broken" },
};

function Preview({ preview, columns }: { preview: Schemas["ImportPreview"]; columns: readonly Schemas["FileColumn"][] }) {
  const shown = columns.slice(0, 7);
  return (
    <Box mb="6">
      <Box fontSize="16px" mb="2">
        Of {preview.whole ? `${many(preview.of)} rows` : `the first ${many(preview.of)} rows`}: <b>{many(preview.newLeads)}</b> new{" "}
        {preview.newLeads === 1 ? "lead" : "leads"}, <b>{many(preview.updates)}</b> {preview.updates === 1 ? "update" : "updates"},{" "}
        <b>{many(preview.doubles)}</b> here already, <b>{many(preview.badRows)}</b> not readable.
      </Box>
      <Box overflowX="auto">
        <chakra.table fontSize="13px" borderCollapse="collapse" width="full">
          <thead>
            <chakra.tr borderBottomWidth="1px" color="ink2">
              {["row", "becomes", ...shown.map((c) => c.header)].map((h) => (
                <chakra.th key={h} textAlign="left" fontWeight={400} pr="3" pb="1" whiteSpace="nowrap">
                  {h}
                </chakra.th>
              ))}
            </chakra.tr>
          </thead>
          <tbody>
            {preview.rows.map((r) => (
              <chakra.tr key={r.row} borderBottomWidth="1px" borderColor="line2" verticalAlign="baseline">
                <chakra.td fontFamily="mono" pr="3" py="5px">
                  {r.row}
                </chakra.td>
                <chakra.td pr="3" minW="150px" width="260px">
                  <State of={outcomeWords[r.outcome].of}>{outcomeWords[r.outcome].word}</State>
                  {r.reason && (
                    <Box color={r.outcome === "bad" ? "cinder" : "ink2"} fontSize="12px">
                      {r.reason}
                    </Box>
                  )}
                </chakra.td>
                {shown.map((c) => (
                  <chakra.td key={c.index} pr="3" maxW="180px" truncate title={r.cells[c.index]}>
                    {r.cells[c.index]}
                  </chakra.td>
                ))}
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
      </Box>
    </Box>
  );
}
