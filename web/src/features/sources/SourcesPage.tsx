import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, type Schemas, told } from "@/api/client";
import { usePerson } from "@/features/accounts/useSession";
import { useChosenClient, withClient } from "@/features/frame/useChosenClient";
import { PageHead, SectionHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { secondsBetween, span } from "@/ui/time";

const Cell = chakra("td", { base: { py: "8px", pr: "4", verticalAlign: "baseline" } });
const Head = chakra("th", {
  base: { textAlign: "left", fontWeight: 400, fontSize: "13px", color: "ink2", pb: "1", pr: "4", whiteSpace: "nowrap" },
});

/** Where leads come from, form by form. */
export function SourcesPage() {
  const chosen = useChosenClient();
  const person = usePerson();
  const forms = useQuery({
    queryKey: ["forms", chosen?.key ?? ""],
    queryFn: () => told(api.GET("/api/forms", { params: { query: { client: chosen?.key } } })),
  });
  const rows = forms.data?.forms ?? [];
  const groups = [...new Set(rows.map((f) => f.client))].map((client) => ({ client, rows: rows.filter((f) => f.client === client) }));
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead title="Sources" beside="every form that sends submissions" />
      {forms.error && <ErrorTold error={forms.error} again={() => void forms.refetch()} />}
      {forms.isPending && <Fetching what="forms" />}
      {forms.data && forms.data.forms.length === 0 && (
        <Empty said="No form is connected yet.">A form that is connected stands here with its map and what it sent.</Empty>
      )}
      {groups.map(({ client, rows }) => (
        <Box key={client} mb="6">
          {person.clients.length > 1 && !chosen && <SectionHead>{client}</SectionHead>}
          <FormTable rows={rows} clientKey={chosen?.key} />
        </Box>
      ))}
    </Box>
  );
}

function FormTable({ rows, clientKey }: { rows: readonly Schemas["FormRow"][]; clientKey: string | undefined }) {
  const now = useNow(10_000);
  return (
    <Box overflowX="auto">
      <chakra.table width="full" borderCollapse="collapse" fontSize="14px" css={{ tableLayout: "fixed", minWidth: "760px" }}>
        <thead>
          <chakra.tr borderBottomWidth="1px">
            <Head width="30%">form</Head>
            <Head width="15%">source</Head>
            <Head width="17%">field map</Head>
            <Head width="12%">submissions</Head>
            <Head width="14%">last one</Head>
            <Head>to look at</Head>
          </chakra.tr>
        </thead>
        <tbody>
          {rows.map((form) => (
            <chakra.tr key={form.id} borderBottomWidth="1px" borderColor="line2" _hover={{ bg: "card" }}>
              <Cell fontWeight={600}>
                <chakra.span _hover={{ textDecoration: "underline" }}>
                  <Link to={withClient(`/sources/${form.id}`, clientKey)}>{form.name}</Link>
                </chakra.span>
              </Cell>
              <Cell color="ink2">{form.source}</Cell>
              <Cell>
                <MapState map={form.map} />
              </Cell>
              <Cell fontFamily="mono" fontSize="13px">
                {form.submissions.toLocaleString("en-GB")}
              </Cell>
              <Cell fontFamily="mono" fontSize="13px">
                {form.lastAt ? `${span(secondsBetween(form.lastAt, now))} ago` : "none yet"}
              </Cell>
              <Cell>
                {form.waiting > 0 && <State of="waiting">{form.waiting} waiting</State>}{" "}
                {form.unreadable > 0 && <State of="broken">{form.unreadable} unreadable</State>}
              </Cell>
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
    </Box>
  );
}

export function MapState({ map }: { map: Schemas["FormRow"]["map"] }) {
  if (map === "confirmed") return <State of="whole">confirmed</State>;
  return <State of="broken">{map === "suggested" ? "not confirmed" : "no map"}</State>;
}
