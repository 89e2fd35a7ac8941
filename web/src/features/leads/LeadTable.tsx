import { Box, chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import type { Person } from "@/features/accounts/useSession";
import { withClient } from "@/features/frame/useChosenClient";
import { State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { cityOf, dayAndClock, secondsBetween, span } from "@/ui/time";

const Cell = chakra("td", {
  base: {
    py: "7px",
    pr: "4",
    verticalAlign: "baseline",
    maxW: "280px",
    overflow: "hidden",
    textOverflow: "ellipsis",
    whiteSpace: "nowrap",
  },
});
const Head = chakra("th", {
  base: { textAlign: "left", fontWeight: 400, fontSize: "13px", color: "ink2", pb: "1", pr: "4", whiteSpace: "nowrap" },
});

type LeadTableProps = {
  rows: readonly Schemas["LeadRow"][];
  person: Person;
  at: number;
  clientKey: string | undefined;
  showClient: boolean;
};

export function LeadTable({ rows, person, at, clientKey, showClient }: LeadTableProps) {
  const now = useNow(5000);
  const clients = new Map(person.clients.map((c) => [c.id, c]));
  // One clock for the whole list: the chosen client's, or the first one's.
  const zone = (person.clients.find((c) => c.key === clientKey) ?? person.clients[0])?.zone ?? "UTC";
  return (
    <Box overflowX="auto">
      <chakra.table width="full" borderCollapse="collapse" fontSize="14px">
        <thead>
          <chakra.tr borderBottomWidth="1px">
            <Head pl="3">who</Head>
            <Head>what they asked</Head>
            <Head>through</Head>
            <Head>asked, in {cityOf(zone)}</Head>
            <Head>speed to lead</Head>
            <Head>who has it</Head>
          </chakra.tr>
        </thead>
        <tbody>
          {rows.map((lead, i) => {
            return (
              <chakra.tr
                key={lead.id}
                borderBottomWidth="1px"
                borderColor="line2"
                bg={i === at ? "card" : undefined}
                _hover={{ bg: "card" }}
              >
                <Cell pl="3" borderLeftWidth="3px" borderColor={i === at ? "ink" : "transparent"} fontWeight={600}>
                  <chakra.span _hover={{ textDecoration: "underline" }}>
                    <Link to={withClient(`/leads/${lead.id}`, clientKey)}>{lead.name}</Link>
                  </chakra.span>{" "}
                  {lead.test && <State of="waiting">test</State>}
                </Cell>
                <Cell title={lead.asked}>{lead.asked}</Cell>
                <Cell color="ink2">
                  {[showClient ? clients.get(lead.clientId)?.shortName : null, lead.source].filter(Boolean).join(" · ")}
                </Cell>
                <Cell fontFamily="mono" fontSize="13px">
                  {dayAndClock(lead.askedAt, now, zone)}
                </Cell>
                <Cell fontFamily="mono" fontSize="13px">
                  <Speed lead={lead} now={now} />
                </Cell>
                <Cell>{lead.firstTouchBy ?? lead.takenBy ?? ""}</Cell>
              </chakra.tr>
            );
          })}
        </tbody>
      </chakra.table>
    </Box>
  );
}

function Speed({ lead, now }: { lead: Schemas["LeadRow"]; now: number }) {
  if (lead.firstTouchAt) {
    const late = lead.firstTouchAt > lead.targetAt;
    return (
      <>
        {span(secondsBetween(lead.askedAt, lead.firstTouchAt))}
        {late && (
          <Box as="span" color="cinder">
            {" late"}
          </Box>
        )}
      </>
    );
  }
  const late = secondsBetween(lead.targetAt, now) > 0;
  return (
    <State of={late ? "broken" : "waiting"}>
      {late ? `late, ${span(secondsBetween(lead.askedAt, now))}` : `in the air, ${span(secondsBetween(lead.askedAt, now))}`}
    </State>
  );
}
