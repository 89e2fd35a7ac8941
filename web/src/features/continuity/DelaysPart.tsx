import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "@/api/client";
import { SectionHead } from "@/ui/Page";
import { span } from "@/ui/time";
import { wayPlace } from "@/ui/wayScale";

/** How long submissions are under way, at the network and with us, kept apart. */
export function DelaysPart({
  sourceId,
  network,
  forms,
}: {
  sourceId: string;
  network: string;
  forms: readonly { id: string; name: string }[];
}) {
  const delays = useQuery({
    queryKey: ["delays", sourceId],
    queryFn: () => unwrap(api.GET("/api/sources/{sourceId}/delays", { params: { path: { sourceId } } })),
  });
  const all = delays.data?.delays ?? [];
  // Of a source with one form both say the same.
  const rows = all.length === 2 ? all.filter((r) => r.formId) : all;
  if (rows.length === 0) return null;
  return (
    <Box mb="6">
      <SectionHead>How long it takes, of thirty days</SectionHead>
      <Box display="grid" gridTemplateColumns="repeat(2, minmax(0, 176px))" columnGap="4" rowGap="2" fontSize="13px" alignItems="center">
        {["filled in → we knew", "we knew → first thing out"].map((what) => (
          <Box key={what} color="ink2" whiteSpace="nowrap">
            {what}
            <Three of={["half", "9 in 10", "99 in 100"]} />
          </Box>
        ))}
        {rows.map((r) => (
          <Row key={r.formId ?? ""} row={r} name={r.formId ? (forms.find((f) => f.id === r.formId)?.name ?? "") : `all of ${network}`} />
        ))}
      </Box>
    </Box>
  );
}

function Row({ row, name }: { row: Schemas["DelayFigures"]; name: string }) {
  return (
    <>
      <Box fontWeight={row.formId ? 400 : 700} truncate gridColumn="1 / -1" mt="1">
        {name}
      </Box>
      <Spread figures={row.network} none="its sender tells no time" />
      <Spread figures={row.ours} none="nothing went out" />
    </>
  );
}

// From the quickest half to the slowest hundredth, on the same bent scale as everywhere.
function Spread({ figures: f, none }: { figures: Schemas["SpanFigures"]; none: string }) {
  if (f.of === 0 || f.p50 === null || f.p90 === null || f.p99 === null) {
    return (
      <Box color="ink2" fontSize="12px">
        {none}
      </Box>
    );
  }
  const [a, b, c] = [f.p50, f.p90, f.p99].map((s) => 4 + wayPlace(s) * 162) as [number, number, number];
  const said = `half within ${span(f.p50)}, nine in ten within ${span(f.p90)}, 99 of 100 within ${span(f.p99)}, of ${f.of}`;
  return (
    <Box title={said}>
      <svg width="170" height="14" role="img" aria-label={said}>
        <line x1="4" y1="7" x2="168" y2="7" stroke="var(--chakra-colors-line)" strokeWidth="1" />
        <line x1="4" y1="7" x2={a} y2="7" stroke="var(--chakra-colors-ink)" strokeWidth="3" />
        <line x1={a} y1="7" x2={b} y2="7" stroke="var(--chakra-colors-slate)" strokeWidth="3" />
        <line x1={b} y1="7" x2={c} y2="7" stroke="var(--chakra-colors-slate)" strokeWidth="1" />
        <path d={`M${a - 4} 7l4 -4l4 4l-4 4z`} fill="var(--chakra-colors-sulphur)" stroke="var(--chakra-colors-ink)" />
        <line x1={c} y1="3" x2={c} y2="11" stroke="var(--chakra-colors-slate)" strokeWidth="1.5" />
      </svg>
      <Box fontFamily="mono">
        <Three of={[f.p50, f.p90, f.p99].map(span)} />
      </Box>
    </Box>
  );
}

function Three({ of }: { of: readonly string[] }) {
  return (
    <Box display="grid" gridTemplateColumns="repeat(3, 56px)" fontSize="11px" lineHeight="14px" whiteSpace="nowrap">
      {of.map((one, place) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: two may be the same, and their order is fixed
        <span key={place}>{one}</span>
      ))}
    </Box>
  );
}
