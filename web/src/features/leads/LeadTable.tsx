import { Box, chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { withClient } from "@/app/useChosenClient";
import type { Person } from "@/app/useSession";
import { latenessOf, standing } from "@/ui/lateness";
import { State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { cityOf, dayAndClock, span } from "@/ui/time";
import { headingOf } from "./columns";

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
  columns: readonly string[];
  picked: ReadonlySet<string> | undefined;
  onPick: (id: string) => void;
  onPickAll: () => void;
};

export function LeadTable({ rows, person, at, clientKey, showClient, columns, picked, onPick, onPickAll }: LeadTableProps) {
  const now = useNow(5000);
  const clients = new Map(person.clients.map((c) => [c.id, c]));
  // One clock for the whole list: the chosen client's, or the first one's.
  const zone = (person.clients.find((c) => c.key === clientKey) ?? person.clients[0])?.zone ?? "UTC";
  const content = (lead: Schemas["LeadRow"], column: string): ReactNode => {
    switch (column) {
      case "what":
        return <span title={lead.asked}>{lead.asked}</span>;
      case "through":
        return (
          <Box as="span" color="ink2">
            {[showClient ? clients.get(lead.clientId)?.shortName : null, lead.source].filter(Boolean).join(" · ")}
          </Box>
        );
      case "asked":
        return <Mono>{dayAndClock(lead.askedAt, now, zone)}</Mono>;
      case "speed":
        return (
          <Mono>
            <Speed lead={lead} now={now} />
          </Mono>
        );
      case "who":
        return lead.firstTouchBy ?? lead.takenBy ?? "";
      case "owner":
        return lead.owner ?? "";
      case "tags":
        return lead.tags.join(", ");
      case "email":
        return lead.email ?? "";
      case "phone":
        return <Mono>{lead.phone ?? ""}</Mono>;
      default:
        return lead.fields[column] ?? "";
    }
  };
  return (
    <Box overflowX="auto">
      <chakra.table width="full" borderCollapse="collapse" fontSize="14px">
        <thead>
          <chakra.tr borderBottomWidth="1px">
            <Head pl="3">
              {picked && (
                <chakra.input
                  type="checkbox"
                  aria-label="Choose all on this page"
                  mr="3"
                  verticalAlign="middle"
                  checked={picked.size === rows.length}
                  onChange={onPickAll}
                />
              )}
              who
            </Head>
            {columns.map((c) => (
              <Head key={c}>{c === "asked" ? `asked, in ${cityOf(zone)}` : headingOf(c)}</Head>
            ))}
          </chakra.tr>
        </thead>
        <tbody>
          {rows.map((lead, i) => (
            <chakra.tr key={lead.id} borderBottomWidth="1px" borderColor="line2" bg={i === at ? "card" : undefined} _hover={{ bg: "card" }}>
              <Cell pl="3" borderLeftWidth="3px" borderColor={i === at ? "ink" : "transparent"} fontWeight={600}>
                {picked && (
                  <chakra.input
                    type="checkbox"
                    aria-label={`Choose ${lead.name}`}
                    mr="3"
                    verticalAlign="middle"
                    checked={picked.has(lead.id)}
                    onChange={() => onPick(lead.id)}
                  />
                )}
                <chakra.span _hover={{ textDecoration: "underline" }}>
                  <Link to={withClient(`/leads/${lead.id}`, clientKey)}>{lead.name}</Link>
                </chakra.span>{" "}
                {lead.test && <State of="waiting">test</State>} {lead.doNotContact && <State of="broken">do not contact</State>}
              </Cell>
              {columns.map((c) => (
                <Cell key={c}>{content(lead, c)}</Cell>
              ))}
            </chakra.tr>
          ))}
        </tbody>
      </chakra.table>
    </Box>
  );
}

const Mono = ({ children }: { children: ReactNode }) => (
  <Box as="span" fontFamily="mono" fontSize="13px">
    {children}
  </Box>
);

function Speed({ lead, now }: { lead: Schemas["LeadRow"]; now: number }) {
  const { waited, late, touched } = latenessOf(lead, now);
  if (touched) {
    return (
      <>
        {span(waited)}
        {late && (
          <Box as="span" color="cinder">
            {" late"}
          </Box>
        )}
      </>
    );
  }
  return <State of={late ? "broken" : "waiting"}>{standing(late, waited)}</State>;
}
