import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, unwrap } from "@/api/client";
import { LeadTabs } from "@/app/LeadTabs";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { usePageKeys } from "@/app/useKeys";
import { may, usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { Input } from "@/ui/Field";
import { PageHead } from "@/ui/Page";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { BulkBar } from "./BulkBar";
import { columnsOf, exported } from "./columns";
import { LeadFilters } from "./LeadFilters";
import { LeadTable } from "./LeadTable";
import { exportUrl, narrowing, narrowingOf, useLeadChoices, useLeadList } from "./useLeadList";

/** All leads; search, filters, columns and page stand in the address. */
export function LeadsPage() {
  const person = usePerson();
  const chosen = useChosenClient();
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const filter = narrowingOf(search);
  const columns = columnsOf(search.get("columns"));
  const page = Math.max(1, Number(search.get("page")) || 1);
  const [typed, setTyped] = useState(filter.q ?? "");
  const [at, setAt] = useState(-1);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [all, setAll] = useState(false);
  const box = useRef<HTMLInputElement>(null);
  const change = (with_: Record<string, string>) => {
    setPicked(new Set());
    setAll(false);
    setSearch(
      (before) => {
        const next = new URLSearchParams(before);
        for (const [key, value] of Object.entries({ page: "", ...with_ })) value ? next.set(key, value) : next.delete(key);
        return next;
      },
      { replace: true },
    );
  };
  const latest = useRef(change);
  latest.current = change;
  const q = filter.q ?? "";
  useEffect(() => {
    if (typed === q) return;
    const timer = setTimeout(() => latest.current({ q: typed }), 200);
    return () => clearTimeout(timer);
  }, [typed, q]);
  const kept = (params: URLSearchParams) => {
    const next = new URLSearchParams();
    for (const key of [...narrowing, "columns"]) {
      const value = params.get(key);
      if (value) next.set(key, value);
    }
    return next.toString();
  };
  const view = (query: string) => {
    const next = new URLSearchParams(query);
    const client = search.get("client");
    if (client) next.set("client", client);
    setTyped(next.get("q") ?? "");
    setSearch(next);
  };
  const leads = useLeadList(chosen?.key, filter, page);
  const choices = useLeadChoices(chosen?.key);
  const fields = useFieldKeys(chosen?.key ?? (person.clients.length === 1 ? person.clients[0]?.key : undefined));
  const rows = leads.data?.items ?? [];
  const place = Math.min(at, rows.length - 1);
  const mayTouch = may(person, "touch-leads");
  const toggle = (id: string) =>
    setPicked((before) => {
      const next = new Set(before);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  usePageKeys({
    "/": () => box.current?.focus(),
    j: () => setAt(Math.min(rows.length - 1, place + 1)),
    k: () => setAt(Math.max(0, place - 1)),
    x: () => mayTouch && rows[place] && toggle(rows[place].id),
    Enter: () => rows[place] && void navigate(withClient(`/leads/${rows[place].id}`, chosen?.key)),
  });
  const narrowed = Object.keys(filter).some((k) => k !== "sort");
  const pages = leads.data ? Math.max(1, Math.ceil(leads.data.total / leads.data.pageSize)) : 1;
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead title="Leads" beside={leads.data && `${leads.data.total.toLocaleString("en-GB")} ${narrowed ? "fit" : "in all"}`}>
        {(["csv", "xlsx"] as const).map((format) => (
          <Button key={format} look="soft" asChild>
            <a href={exportUrl(format, chosen?.key, filter, exported(columns))} download>
              {format.toUpperCase()}
            </a>
          </Button>
        ))}
        {mayTouch && (
          <Button asChild>
            <Link to={withClient("/leads/new", chosen?.key)}>Add a lead</Link>
          </Button>
        )}
      </PageHead>
      <LeadTabs />
      <Box display="flex" gap="2" mb="3" flexWrap="wrap" alignItems="center" role="search">
        <Input
          ref={box}
          type="search"
          aria-label="Search leads"
          placeholder="Name, email, phone, any answer"
          width="min(300px, 100%)"
          minH="32px"
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
        />
        <LeadFilters
          key={search.get("client") ?? ""}
          filter={filter}
          choices={choices.data}
          fields={fields}
          columns={columns}
          query={kept(search)}
          onChange={change}
          onView={view}
        />
      </Box>
      {leads.error && <ErrorTold error={leads.error} again={() => void leads.refetch()} />}
      {leads.isPending && <Fetching what="leads" />}
      {leads.data && rows.length === 0 && (
        <Empty said={narrowed ? "No lead fits." : "No lead yet."}>
          {narrowed ? (
            <Button look="quiet" onClick={() => view("")}>
              Show all
            </Button>
          ) : (
            "The first submission on any connected form makes the first lead."
          )}
        </Empty>
      )}
      {rows.length > 0 && (
        <LeadTable
          rows={rows}
          person={person}
          at={place}
          clientKey={chosen?.key}
          showClient={!chosen}
          columns={columns}
          picked={mayTouch ? picked : undefined}
          onPick={toggle}
          onPickAll={() => setPicked(picked.size === rows.length ? new Set() : new Set(rows.map((r) => r.id)))}
        />
      )}
      {pages > 1 && (
        <Box as="nav" aria-label="Pages" display="flex" gap="3" alignItems="center" mt="3">
          <Button look="soft" disabled={page <= 1} onClick={() => change({ page: String(page - 1) })}>
            Newer
          </Button>
          <Box fontFamily="mono" fontSize="13px">
            {page} of {pages}
          </Box>
          <Button look="soft" disabled={page >= pages} onClick={() => change({ page: String(page + 1) })}>
            Older
          </Button>
        </Box>
      )}
      {picked.size > 0 && leads.data && (
        <BulkBar
          picked={[...picked]}
          all={all}
          total={leads.data.total}
          shown={rows.length}
          client={chosen?.key}
          filter={filter}
          choices={choices.data}
          onAll={() => setAll(true)}
          onNone={() => {
            setPicked(new Set());
            setAll(false);
          }}
        />
      )}
    </Box>
  );
}

// One client's fields; where several are shown, what they have in common is not worth a filter of its own.
function useFieldKeys(client: string | undefined): readonly string[] {
  const fields = useQuery({
    queryKey: ["lead-fields", client ?? ""],
    enabled: client !== undefined,
    queryFn: () => unwrap(api.GET("/api/lead-fields", { params: { query: { client } } })),
  });
  const own = (fields.data?.fields ?? []).filter((f) => f.own).map((f) => f.key);
  return [...own, "company", "job_title", "postcode", "city", "campaign", "ad", "utm_source", "utm_campaign", "utm_term", "landing_path"];
}
