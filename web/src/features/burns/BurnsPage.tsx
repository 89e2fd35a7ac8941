import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { usePageKeys } from "@/app/useKeys";
import { usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { Select as WideSelect } from "@/ui/Field";
import { PageHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock, secondsBetween, span } from "@/ui/time";
import { BurnSheet } from "./BurnSheet";
import { narrowingOf, standing, states, stepsWords, useBurns } from "./useBurns";

const Select = chakra(WideSelect, {
  base: { minH: "30px", py: "0", fontSize: "14px", borderColor: "line", bg: "transparent", fontWeight: 600 },
});

/** What is burning and what has burnt; filter and what is open stand in the address. */
export function BurnsPage() {
  const person = usePerson();
  const chosen = useChosenClient();
  const [search, setSearch] = useSearchParams();
  const [at, setAt] = useState(-1);
  const n = narrowingOf(search);
  const list = useBurns(chosen?.key, n);
  const rows = list.data?.pages.flatMap((p) => p.items) ?? [];
  const place = Math.min(at, rows.length - 1);
  const now = useNow(5000);
  const zone = (chosen ?? person.clients[0])?.zone ?? "UTC";
  const open = search.get("burn");
  const change = (to: Record<string, string>) =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      for (const [key, value] of Object.entries(to)) value ? next.set(key, value) : next.delete(key);
      return next;
    });
  usePageKeys({
    j: () => setAt(Math.min(rows.length - 1, place + 1)),
    k: () => setAt(Math.max(0, place - 1)),
    Enter: () => rows[place] && change({ burn: rows[place].id }),
    Escape: () => open && change({ burn: "" }),
  });
  const narrowed = Object.keys(n).length > 0;
  return (
    <Box display={{ base: "block", lg: "flex" }}>
      <Box p={{ base: "3", md: "5" }} pt="4" flex="1" minW="0">
        <PageHead title="Burns" beside="one fuse burning for one lead: what is burning, and what has burnt">
          <chakra.span fontSize="14px" textDecoration="underline" textUnderlineOffset="3px">
            <Link to={withClient("/fuses", chosen?.key)}>Fuses</Link>
          </chakra.span>
        </PageHead>
        <Narrow n={n} client={chosen?.key} change={change} />
        {list.error && <ErrorTold error={list.error} again={() => void list.refetch()} />}
        {list.isPending && <Fetching what="burns" />}
        {list.data && rows.length === 0 && (
          <Empty said={narrowed ? "No burn is like that." : "Nothing burns yet."}>
            {narrowed ? "Widen the sentence above." : "Once an armed fuse is lit by a lead, its burn stands here."}
          </Empty>
        )}
        {rows.length > 0 && (
          <chakra.table width="full" fontSize="14px" aria-label="Burns">
            <thead>
              <chakra.tr fontSize="12px" color="ink2" textAlign="left">
                {["lit", "lead", "fuse", "bands", "its steps", "next"].map((h) => (
                  <chakra.th key={h} scope="col" fontWeight={400} pr="3" pb="1" display={narrowToo.includes(h) ? undefined : wide}>
                    {h}
                  </chakra.th>
                ))}
              </chakra.tr>
            </thead>
            <tbody>
              {rows.map((row, i) => (
                <Row
                  key={row.id}
                  row={row}
                  current={i === place}
                  open={open === row.id}
                  showClient={!chosen}
                  now={now}
                  zone={zone}
                  onOpen={() => change({ burn: row.id })}
                />
              ))}
            </tbody>
          </chakra.table>
        )}
        {list.hasNextPage && (
          <Box py="3">
            <Button look="soft" disabled={list.isFetchingNextPage} onClick={() => void list.fetchNextPage()}>
              Show earlier ones
            </Button>
          </Box>
        )}
      </Box>
      {open && <BurnSheet key={open} id={open} zone={zone} close={() => change({ burn: "" })} />}
    </Box>
  );
}

// On a phone who and how far have the room, the fuse stands below the name; bands and what comes next are a tap away.
const narrowToo = ["lit", "lead", "its steps"];
const wide = { base: "none", md: "table-cell" } as const;

type RowProps = {
  row: Schemas["BurnRow"];
  current: boolean;
  open: boolean;
  showClient: boolean;
  now: number;
  zone: string;
  onOpen: () => void;
};

function Row({ row, current, open, showClient, now, zone, onOpen }: RowProps) {
  const is = standing(row);
  const cell = { pr: "3", py: "1.5", verticalAlign: "baseline" } as const;
  return (
    <chakra.tr
      borderTopWidth="1px"
      borderColor="line2"
      bg={open ? "shade" : undefined}
      outline={current ? "2px solid" : undefined}
      outlineColor="ink"
      outlineOffset="-2px"
    >
      <chakra.td {...cell} fontFamily="mono" fontSize="12px" whiteSpace={{ base: "normal", md: "nowrap" }}>
        {dayAndClock(row.litAt, now, zone, true)}
      </chakra.td>
      <chakra.td {...cell}>
        <Button
          look="quiet"
          fontWeight={600}
          textAlign="left"
          whiteSpace="normal"
          overflowWrap="anywhere"
          onClick={onOpen}
          aria-expanded={open}
        >
          {row.lead}
        </Button>
        {showClient && (
          <Box fontSize="12px" color="ink2">
            {row.client}
          </Box>
        )}
        <Box fontSize="12px" color="ink2" hideFrom="md">
          {row.fuse}
        </Box>
      </chakra.td>
      <chakra.td {...cell} display={wide} maxW="190px" truncate title={row.fuse}>
        {row.fuse}
      </chakra.td>
      <chakra.td {...cell} display={wide} maxW="150px" truncate color="ink2" title={row.bands.join(", ")}>
        {row.bands.join(", ") || "none"}
      </chakra.td>
      <chakra.td {...cell} whiteSpace={{ base: "normal", md: "nowrap" }}>
        <State of={is.of}>{is.word}</State>{" "}
        <Box as="span" fontSize="12px" color="ink2">
          {stepsWords(row)}
        </Box>
      </chakra.td>
      <chakra.td {...cell} display={wide} fontFamily="mono" fontSize="12px" whiteSpace="nowrap">
        {row.nextAt ? `in ${span(secondsBetween(now, row.nextAt))}` : ""}
      </chakra.td>
    </chakra.tr>
  );
}

function Narrow({
  n,
  client,
  change,
}: {
  n: ReturnType<typeof narrowingOf>;
  client: string | undefined;
  change: (to: Record<string, string>) => void;
}) {
  const fuses = useQuery({
    queryKey: ["fuses", client ?? ""],
    queryFn: () => unwrap(api.GET("/api/fuses", { params: { query: { client } } })),
  });
  const fuse = useQuery({
    queryKey: ["fuse", n.fuse ?? ""],
    enabled: n.fuse !== undefined,
    queryFn: () => unwrap(api.GET("/api/fuses/{fuseId}", { params: { path: { fuseId: n.fuse ?? "" } } })),
  });
  return (
    <Box role="search" aria-label="Narrow the burns" display="flex" gap="2" alignItems="center" flexWrap="wrap" mb="3" fontSize="14px">
      <span>Show</span>
      <Select aria-label="How they stand" width="auto" value={n.state ?? ""} onChange={(e) => change({ state: e.target.value })}>
        {states.map(([value, label]) => (
          <option key={value} value={value}>
            {label}
          </option>
        ))}
      </Select>
      <span>of</span>
      <Select
        aria-label="Of which fuse"
        width="auto"
        maxW="320px"
        value={n.fuse ?? ""}
        onChange={(e) => change({ fuse: e.target.value, band: "" })}
      >
        <option value="">any fuse</option>
        {fuses.data?.fuses
          .filter((f) => f.state !== "draft")
          .map((f) => (
            <option key={f.id} value={f.id}>
              {client ? f.name : `${f.name}, ${f.client}`}
            </option>
          ))}
      </Select>
      {n.fuse && (
        <>
          <span>in which</span>
          <Select aria-label="Which band" width="auto" maxW="220px" value={n.band ?? ""} onChange={(e) => change({ band: e.target.value })}>
            <option value="">any band</option>
            {(fuse.data?.armed ?? fuse.data?.definition)?.bands.map((b) => (
              <option key={b.id} value={b.id}>
                {b.name}
              </option>
            ))}
          </Select>
          <span>was entered</span>
        </>
      )}
      {Object.keys(n).length > 0 && (
        <Button look="quiet" fontSize="13px" fontWeight={400} onClick={() => change({ state: "", fuse: "", band: "" })}>
          Show all again
        </Button>
      )}
    </Box>
  );
}
