import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, told } from "@/api/client";
import { may, usePerson } from "@/features/accounts/useSession";
import { useChosenClient, withClient } from "@/features/frame/useChosenClient";
import { usePageKeys } from "@/features/frame/useKeys";
import { Button } from "@/ui/Button";
import { Input, Select } from "@/ui/Field";
import { PageHead } from "@/ui/Page";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { LeadTable } from "./LeadTable";

/** All leads, newest asking first; search, filter and page stand in the address. */
export function LeadsPage() {
  const person = usePerson();
  const chosen = useChosenClient();
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const q = search.get("q") ?? "";
  const state = search.get("state") ?? "";
  const page = Math.max(1, Number(search.get("page")) || 1);
  const [typed, setTyped] = useState(q);
  const [at, setAt] = useState(-1);
  const box = useRef<HTMLInputElement>(null);
  const change = (with_: Record<string, string>) =>
    setSearch(
      (before) => {
        const next = new URLSearchParams(before);
        for (const [key, value] of Object.entries({ page: "", ...with_ })) value ? next.set(key, value) : next.delete(key);
        return next;
      },
      { replace: true },
    );
  const latest = useRef(change);
  latest.current = change;
  useEffect(() => {
    if (typed === q) return;
    const timer = setTimeout(() => latest.current({ q: typed }), 200);
    return () => clearTimeout(timer);
  }, [typed, q]);

  const showAll = () => {
    setTyped("");
    change({ q: "", state: "" });
  };

  const leads = useQuery({
    queryKey: ["leads", chosen?.key ?? "", q, state, page],
    placeholderData: (before) => before,
    queryFn: () =>
      told(api.GET("/api/leads", { params: { query: { client: chosen?.key, q: q || undefined, state: state || undefined, page } } })),
  });
  const rows = leads.data?.items ?? [];
  const place = Math.min(at, rows.length - 1);
  usePageKeys({
    "/": () => box.current?.focus(),
    j: () => setAt(Math.min(rows.length - 1, place + 1)),
    k: () => setAt(Math.max(0, place - 1)),
    Enter: () => rows[place] && void navigate(withClient(`/leads/${rows[place].id}`, chosen?.key)),
  });
  const pages = leads.data ? Math.max(1, Math.ceil(leads.data.total / leads.data.pageSize)) : 1;
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead
        title="Leads"
        beside={leads.data && `${leads.data.total.toLocaleString("en-GB")} ${q || state ? "fit" : "in all"}, newest asking first`}
      >
        {may(person, "touch-leads") && (
          <Button asChild>
            <Link to={withClient("/leads/new", chosen?.key)}>Add a lead</Link>
          </Button>
        )}
      </PageHead>
      <Box display="flex" gap="3" mb="3" flexWrap="wrap" alignItems="center" role="search">
        <Input
          ref={box}
          type="search"
          aria-label="Search leads"
          placeholder="Name, email, phone, any answer"
          width="min(360px, 100%)"
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
        />
        <Select aria-label="Who" value={state} width="auto" onChange={(e) => change({ state: e.target.value })}>
          <option value="">everyone</option>
          <option value="in-the-air">in the air</option>
          <option value="touched">touched</option>
        </Select>
      </Box>
      {leads.error && <ErrorTold error={leads.error} again={() => void leads.refetch()} />}
      {leads.isPending && <Fetching what="leads" />}
      {leads.data && rows.length === 0 && (
        <Empty said={q || state ? "No lead fits." : "No lead yet."}>
          {q || state ? (
            <Button look="quiet" onClick={showAll}>
              Show all
            </Button>
          ) : (
            "The first submission on any connected form makes the first lead."
          )}
        </Empty>
      )}
      {rows.length > 0 && <LeadTable rows={rows} person={person} at={place} clientKey={chosen?.key} showClient={!chosen} />}
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
    </Box>
  );
}
