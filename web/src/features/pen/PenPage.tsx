import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { LeadTabs } from "@/app/LeadTabs";
import { useChosenClient } from "@/app/useChosenClient";
import { usePageKeys } from "@/app/useKeys";
import { may, usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { Input } from "@/ui/Field";
import { PageHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock, secondsBetween, span } from "@/ui/time";
import { useAct } from "@/ui/useAct";

/** Submissions that wait for a person's word. Approving lights what they light; refusing loses nothing. */
export function PenPage() {
  const chosen = useChosenClient();
  const [search, setSearch] = useSearchParams();
  const refused = search.get("refused") === "1";
  const pen = useQuery({
    queryKey: ["pen", chosen?.key ?? "", String(refused)],
    queryFn: () => unwrap(api.GET("/api/pen", { params: { query: { client: chosen?.key, refused } } })),
  });
  const flip = () =>
    setSearch((s) => {
      const next = new URLSearchParams(s);
      refused ? next.delete("refused") : next.set("refused", "1");
      return next;
    });
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead title="Holding pen" beside="nothing here has become a lead yet; nothing here is lost">
        <Button look="soft" onClick={flip}>
          {refused ? `Back to the ${pen.data?.held ?? 0} that wait` : `Show the ${pen.data?.refused ?? 0} refused`}
        </Button>
      </PageHead>
      <LeadTabs />
      {pen.error && <ErrorTold error={pen.error} again={() => void pen.refetch()} />}
      {pen.isPending && <Fetching what="the holding pen" />}
      {pen.data?.rows.length === 0 && (
        <Empty said={refused ? "Nothing was refused." : "Nothing waits."}>
          A form says on its page what waits here: what looks like junk, what a rule is about, or all of it.
        </Empty>
      )}
      {pen.data && pen.data.rows.length > 0 && <Rows key={String(refused)} rows={pen.data.rows} />}
    </Box>
  );
}

function Rows({ rows }: { rows: readonly Schemas["HeldRow"][] }) {
  const person = usePerson();
  const now = useNow(5000);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [at, setAt] = useState(0);
  const [reason, setReason] = useState("");
  const place = Math.min(at, rows.length - 1);
  const here = rows[place];
  const ids = picked.size > 0 ? rows.filter((r) => picked.has(r.id)).map((r) => r.id) : here ? [here.id] : [];
  const stale: string[][] = [["pen"], ["leads"], ["watch"], ["frame"]];
  const approve = useAct((which: string[]) => unwrap(api.POST("/api/pen/approve", { body: { ids: which, reason: null } })), ...stale);
  const refuse = useAct((which: string[]) => unwrap(api.POST("/api/pen/refuse", { body: { ids: which, reason } })), ...stale);
  const mayTouch = may(person, "touch-leads");
  const done = () => setPicked(new Set());
  const toggle = (id: string) =>
    setPicked((before) => {
      const next = new Set(before);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  usePageKeys({
    j: () => setAt(Math.min(rows.length - 1, place + 1)),
    k: () => setAt(Math.max(0, place - 1)),
    x: () => here && toggle(here.id),
    a: () => mayTouch && ids.length > 0 && approve.mutate(ids, { onSuccess: done }),
  });
  const error = approve.error ?? refuse.error;
  const some = ids.length === 1 ? (rows.find((r) => r.id === ids[0])?.name ?? "it") : `${ids.length} of them`;
  return (
    <>
      {rows.map((row, i) => (
        <Box
          key={row.id}
          display="grid"
          gridTemplateColumns={{ base: "24px 1fr", lg: "24px minmax(0, 1fr) minmax(0, 1.1fr)" }}
          columnGap="4"
          borderBottomWidth="1px"
          borderColor="line2"
          borderLeftWidth="3px"
          borderLeftColor={i === place ? "ink" : "transparent"}
          bg={i === place ? "card" : undefined}
          pl="3"
          py="3"
          onClick={() => setAt(i)}
        >
          <Box>
            <input type="checkbox" aria-label={`Choose ${row.name}`} checked={picked.has(row.id)} onChange={() => toggle(row.id)} />
          </Box>
          <Box minW="0">
            <Box fontWeight={600}>
              {row.name} {row.test && <State of="waiting">test</State>} {row.known && <State>known: {row.known}</State>}
            </Box>
            <Box fontSize="13px" color="ink2" overflowWrap="anywhere">
              {[row.email, row.phone].filter(Boolean).join(" · ")}
            </Box>
            <Box fontSize="13px" color="ink2">
              {row.client} · {row.form} · <Clock at={row.heldAt} now={now} />
            </Box>
            <Box fontSize="14px" mt="1" color={row.refused ? "ink2" : "cinder"}>
              {row.refused ? `Refused by ${row.decidedBy}: ${row.why}` : row.why}
            </Box>
          </Box>
          <Box as="dl" gridColumn={{ base: "2", lg: "3" }} fontSize="13px" minW="0">
            {row.answers.slice(0, 8).map((a) => (
              <Box key={a.question} display="grid" gridTemplateColumns="minmax(90px, 150px) 1fr" gap="3">
                <Box as="dt" color="ink2" truncate title={a.question}>
                  {a.question}
                </Box>
                <Box as="dd" overflowWrap="anywhere">
                  {a.answer}
                </Box>
              </Box>
            ))}
          </Box>
        </Box>
      ))}
      {mayTouch && (
        <Box position="sticky" bottom="0" bg="paper" borderTopWidth="1px" py="3" display="flex" gap="3" alignItems="center" flexWrap="wrap">
          <Button look="primary" disabled={approve.isPending || ids.length === 0} onClick={() => approve.mutate(ids, { onSuccess: done })}>
            Approve {some}
          </Button>
          {!rows[0]?.refused && (
            <>
              <Input
                aria-label="Why refused"
                placeholder="Why? whoever looks later wants to know"
                width="290px"
                value={reason}
                onChange={(e) => setReason(e.target.value)}
              />
              <Button
                disabled={refuse.isPending || ids.length === 0 || !reason.trim()}
                onClick={() => refuse.mutate(ids, { onSuccess: done })}
              >
                Refuse {some}
              </Button>
            </>
          )}
          <Button look="quiet" onClick={() => setPicked(picked.size === rows.length ? new Set() : new Set(rows.map((r) => r.id)))}>
            {picked.size === rows.length ? "Choose none" : "Choose all"}
          </Button>
          {approve.data && <Box role="status">{approve.data.done} approved.</Box>}
          {refuse.data && <Box role="status">{refuse.data.done} refused.</Box>}
        </Box>
      )}
      {error && <ErrorTold error={error} />}
    </>
  );
}

function Clock({ at, now }: { at: string; now: number }) {
  const person = usePerson();
  const zone = person.clients[0]?.zone ?? "UTC";
  return (
    <>
      waits since {dayAndClock(at, now, zone)}, {span(secondsBetween(at, now))}
    </>
  );
}
