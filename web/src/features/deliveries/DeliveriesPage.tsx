import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { useChosenClient } from "@/app/useChosenClient";
import { usePageKeys } from "@/app/useKeys";
import { may, usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { PageHead } from "@/ui/Page";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { DeliverySheet } from "./DeliverySheet";
import { DeliveryTable } from "./DeliveryTable";
import { Narrow } from "./Narrow";
import { Queues } from "./Queues";
import { Replay } from "./Replay";
import { filterOf, narrowingOf, useDeliveries } from "./useDeliveries";

/** Every outbound attempt: stuck ones first, then newest; filter and what is open stand in the address. */
export function DeliveriesPage() {
  const person = usePerson();
  const chosen = useChosenClient();
  const navigate = useNavigate();
  const { deliveryId } = useParams();
  const [search, setSearch] = useSearchParams();
  const [at, setAt] = useState(-1);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const n = narrowingOf(search);
  const list = useDeliveries(chosen?.key, n);
  const rows = list.data?.pages.flatMap((p) => p.items) ?? [];
  const zone = (chosen ?? person.clients[0])?.zone ?? "UTC";
  const place = Math.min(at, rows.length - 1);
  const mayMend = may(person, "edit-sources");
  const change = (to: Record<string, string>) => {
    setPicked(new Set());
    setSearch((before) => {
      const next = new URLSearchParams(before);
      for (const [key, value] of Object.entries(to)) value ? next.set(key, value) : next.delete(key);
      return next;
    });
  };
  const toggle = (id: string) =>
    setPicked((before) => {
      const next = new Set(before);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const open = (id: string | undefined) => void navigate({ pathname: id ? `/deliveries/${id}` : "/deliveries", search: search.toString() });
  usePageKeys({
    j: () => setAt(Math.min(rows.length - 1, place + 1)),
    k: () => setAt(Math.max(0, place - 1)),
    x: () => mayMend && rows[place] && toggle(rows[place].id),
    Enter: () => rows[place] && open(rows[place].id),
    Escape: () => deliveryId && open(undefined),
  });
  const narrowed = Object.keys(n).length > 0;
  return (
    <Box display={{ base: "block", lg: "flex" }}>
      <Box p={{ base: "3", md: "5" }} pt="4" flex="1" minW="0">
        <PageHead title="Deliveries" beside="everything that was to leave for somewhere else, and whether it got there" />
        {list.error && <ErrorTold error={list.error} again={() => void list.refetch()} />}
        {list.isPending && <Fetching what="deliveries" />}
        {list.data && <Queues queues={list.data.pages[0]?.queues ?? []} narrow={change} />}
        <Narrow n={n} client={chosen?.key} change={change} />
        {mayMend && (rows.length > 0 || list.isFetching) && (narrowed || picked.size > 0) && (
          <Replay
            key={JSON.stringify([n, [...picked]])}
            picked={picked}
            filter={filterOf(chosen?.key, n)}
            done={() => setPicked(new Set())}
          />
        )}
        {list.data && rows.length === 0 && (
          <Empty said={narrowed ? "No delivery is like that." : "Nothing has left yet."}>
            {narrowed
              ? "Widen the sentence above."
              : "Once a fuse is lit, every post, text, letter and record that it sends stands here, with what was said and answered."}
          </Empty>
        )}
        {rows.length > 0 && (
          <DeliveryTable rows={rows} at={place} open={deliveryId} picked={mayMend ? picked : undefined} onPick={toggle} zone={zone} />
        )}
        {list.hasNextPage && (
          <Box py="3">
            <Button look="soft" disabled={list.isFetchingNextPage} onClick={() => void list.fetchNextPage()}>
              Show earlier ones
            </Button>
          </Box>
        )}
      </Box>
      {deliveryId && <DeliverySheet key={deliveryId} id={deliveryId} close={() => open(undefined)} zone={zone} />}
    </Box>
  );
}
