import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { SectionHead } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { secondsBetween, span } from "@/ui/time";
import { useAct } from "@/ui/useAct";

type Props = { sourceId: string; source: string; forms: readonly { id: string; name: string }[]; may: boolean; now: number };

/** What the network has, beside what is here, day by day; what is missing is fetched. */
export function ComparePart({ sourceId, source, forms, may, now }: Props) {
  const path = { params: { path: { sourceId } } };
  const compared = useQuery({
    queryKey: ["compared", sourceId],
    queryFn: () => unwrap(api.GET("/api/sources/{sourceId}/compared", path)),
  });
  const compare = useAct(
    () => unwrap(api.POST("/api/sources/{sourceId}/compare", { params: { ...path.params, query: { days: 7 } } })),
    ["compared", sourceId],
    ["source", sourceId],
  );
  const data = compared.data;
  if (!data?.can) return null;
  const days = [...new Set(data.days.map((d) => d.day))].slice(0, 7);
  return (
    <Box my="6">
      <SectionHead>{source}’s own list, beside what is here</SectionHead>
      <Box fontSize="14px" display="flex" gap="3" alignItems="center" flexWrap="wrap" mb="2">
        {may && (
          <Button size="small" disabled={compare.isPending} onClick={() => compare.mutate(undefined)}>
            {compare.isPending ? "Comparing …" : "Compare now"}
          </Button>
        )}
        <Box color="ink2">
          {data.at ? `Compared ${span(Math.max(0, secondsBetween(data.at, now)))} ago` : "Not compared yet"}; every five minutes by itself.
        </Box>
      </Box>
      {data.fault && (
        <Box color="cinder" fontSize="14px" mb="2">
          The list could not be had: {data.fault}
        </Box>
      )}
      {compare.data && (
        <Box role="status" fontSize="14px" mb="2">
          {compare.data.theirs} on its list
          {compare.data.recovered > 0
            ? `; ${compare.data.recovered} that nobody told us of ${compare.data.recovered === 1 ? "is" : "are"} fetched`
            : compare.data.missing === 0 && ", all of them here"}
          {compare.data.missing > 0 && `; ${compare.data.missing} could not be fetched`}.
        </Box>
      )}
      {compare.error && <ErrorTold error={compare.error} />}
      {days.length > 0 && (
        <chakra.table fontSize="13px" fontFamily="mono" borderCollapse="collapse">
          <thead>
            <tr>
              <Head>day</Head>
              <Head>form</Head>
              <Head right>there</Head>
              <Head right>here</Head>
              <Head right>recovered</Head>
            </tr>
          </thead>
          <tbody>
            {days.flatMap((day) =>
              data.days
                .filter((d) => d.day === day)
                .map((d) => <Row key={`${day}${d.formId}`} day={d} form={forms.find((f) => f.id === d.formId)?.name ?? ""} />),
            )}
          </tbody>
        </chakra.table>
      )}
    </Box>
  );
}

const Head = ({ right, children }: { right?: boolean; children: string }) => (
  <chakra.th fontWeight={400} color="ink2" textAlign={right ? "right" : "left"} pr="4" pb="1" fontFamily="body">
    {children}
  </chakra.th>
);

function Row({ day: d, form }: { day: Schemas["ComparedDay"]; form: string }) {
  const less = d.ours < d.theirs;
  return (
    <chakra.tr borderTopWidth="1px" borderColor="line2">
      <chakra.td pr="4" py="1">
        {new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short", timeZone: "UTC" }).format(Date.parse(d.day))}
      </chakra.td>
      <chakra.td pr="4" fontFamily="body">
        {form}
      </chakra.td>
      <chakra.td pr="4" textAlign="right">
        {d.theirs}
      </chakra.td>
      <chakra.td pr="4" textAlign="right" color={less ? "cinder" : "ink"} fontWeight={less ? 700 : 400}>
        {d.ours}
      </chakra.td>
      <chakra.td pr="4" textAlign="right">
        {d.recovered === 0 ? "" : d.recovered}
      </chakra.td>
    </chakra.tr>
  );
}
