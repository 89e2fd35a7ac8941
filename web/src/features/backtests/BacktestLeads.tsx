import { Box, chakra } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { countWords, type Side } from "./useBacktest";

type LeadsProps = { id: string; side: Side; mark: string; definition: Schemas["FuseDefinition"]; zone: string; back: () => void };

const sideWords = { this: "as it stands", beside: "by the armed version", truth: "in truth" } as const;

/** The leads behind a number of a backtest. */
export function BacktestLeads({ id, side, mark, definition, zone, back }: LeadsProps) {
  const now = useNow(60_000);
  const [page, setPage] = useState(1);
  const leads = useQuery({
    queryKey: ["backtest", id, "leads", side, mark, page],
    placeholderData: keepPreviousData,
    queryFn: () =>
      unwrap(api.GET("/api/backtests/{backtestId}/leads", { params: { path: { backtestId: id }, query: { side, mark, page } } })),
  });
  const data = leads.data;
  const pages = data ? Math.max(1, Math.ceil(data.total / data.pageSize)) : 1;
  return (
    <>
      <Button look="soft" size="small" onClick={back} mb="2">
        Back to the figures
      </Button>
      <Box mb="2">
        {data ? <b>{data.total === 1 ? "1 lead" : `${data.total} leads`}</b> : "Leads"}: {countWords(mark, definition)}, {sideWords[side]}.
      </Box>
      {leads.error && <ErrorTold error={leads.error} />}
      {!data && !leads.error && <Fetching what="the leads" />}
      <chakra.ul listStyleType="none" aria-label="Leads behind the number">
        {data?.leads.map((l) => (
          <Box as="li" key={l.leadId} borderTopWidth="1px" borderColor="line2" py="1.5">
            <Box display="flex" justifyContent="space-between" gap="2">
              <chakra.span fontWeight={600} textDecoration="underline" textUnderlineOffset="3px" overflowWrap="anywhere">
                <Link to={`/leads/${l.leadId.replaceAll("-", "")}`}>{l.name}</Link>
              </chakra.span>
              <Box fontFamily="mono" fontSize="12px" color="ink2" whiteSpace="nowrap">
                {dayAndClock(l.askedAt, now, zone)}
              </Box>
            </Box>
            <Box fontSize="13px" color="ink2">
              messages: {l.messages} as it stands
              {l.besideMessages !== null ? `, ${l.besideMessages} by the armed version` : ""}, {l.truthMessages} in truth
              {l.notLit ? ` · not lit: ${l.notLit}` : ""}
            </Box>
          </Box>
        ))}
      </chakra.ul>
      {pages > 1 && (
        <Box display="flex" gap="2" alignItems="center" mt="3" fontSize="14px">
          <Button look="soft" size="small" disabled={page <= 1} onClick={() => setPage(page - 1)}>
            Newer
          </Button>
          {page} of {pages}
          <Button look="soft" size="small" disabled={page >= pages} onClick={() => setPage(page + 1)}>
            Older
          </Button>
        </Box>
      )}
    </>
  );
}
