import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Input as WideInput, Select as WideSelect } from "@/ui/Field";
import type { Narrowing } from "./useDeliveries";

// They are words of a sentence here, not fields of a form.
const word = { minH: "30px", py: "0", fontSize: "14px", borderColor: "line", bg: "transparent" };
const Input = chakra(WideInput, { base: word });
const Select = chakra(WideSelect, { base: { ...word, fontWeight: 600 } });

const states = [
  ["", "all deliveries"],
  ["stuck", "those to be tried again"],
  ["waiting", "those that wait"],
  ["failed", "those that failed"],
  ["taken", "those that were delivered"],
  ["cancelled", "those that were cancelled"],
] as const;
const lanes = [
  ["", "anyone"],
  ["lead", "the lead"],
  ["team", "the team"],
  ["systems", "systems of record"],
] as const;

/** What the list shows, as a sentence that can be changed. */
export function Narrow({ n, client, change }: { n: Narrowing; client: string | undefined; change: (to: Record<string, string>) => void }) {
  const [typed, setTyped] = useState(n.search ?? "");
  const latest = useRef(change);
  latest.current = change;
  const stands = n.search ?? "";
  useEffect(() => {
    if (typed === stands) return;
    const timer = setTimeout(() => latest.current({ search: typed }), 250);
    return () => clearTimeout(timer);
  }, [typed, stands]);
  const connections = useQuery({
    queryKey: ["connections", client ?? ""],
    queryFn: () => unwrap(api.GET("/api/connections", { params: { query: { client } } })),
  });
  return (
    <Box role="search" aria-label="Narrow the deliveries" display="flex" gap="2" alignItems="center" flexWrap="wrap" mb="3" fontSize="14px">
      <span>Show</span>
      <Select aria-label="How they stand" width="auto" value={n.state ?? ""} onChange={(e) => change({ state: e.target.value })}>
        {states.map(([value, label]) => (
          <option key={value} value={value}>
            {label}
          </option>
        ))}
      </Select>
      <span>for</span>
      <Select aria-label="For whom" width="auto" value={n.lane ?? ""} onChange={(e) => change({ lane: e.target.value })}>
        {lanes.map(([value, label]) => (
          <option key={value} value={value}>
            {label}
          </option>
        ))}
      </Select>
      <span>through</span>
      <Select
        aria-label="Through which connection"
        width="auto"
        maxW="180px"
        value={n.connection ?? ""}
        onChange={(e) => change({ connection: e.target.value })}
      >
        <option value="">any connection</option>
        {connections.data?.connections.map((c) => (
          <option key={c.id} value={c.id}>
            {client ? c.name : `${c.name}, ${c.client}`}
          </option>
        ))}
      </Select>
      <span>decided between</span>
      <Input
        aria-label="Decided from"
        type="datetime-local"
        width="190px"
        value={n.from ?? ""}
        onChange={(e) => change({ from: e.target.value })}
      />
      <span>and</span>
      <Input
        aria-label="Decided until"
        type="datetime-local"
        width="190px"
        value={n.to ?? ""}
        onChange={(e) => change({ to: e.target.value })}
      />
      <span>about</span>
      <Input
        aria-label="About which lead"
        placeholder="name, email, number"
        width="190px"
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
      />
      {Object.keys(n).length > 0 && (
        <Button
          look="quiet"
          fontSize="13px"
          fontWeight={400}
          onClick={() => {
            setTyped("");
            change({ state: "", lane: "", connection: "", from: "", to: "", search: "" });
          }}
        >
          Show all again
        </Button>
      )}
    </Box>
  );
}
