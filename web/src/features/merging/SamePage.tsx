import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { LeadTabs } from "@/app/LeadTabs";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { may, usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { PageHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";

/** Leads that may be one person: an email of one came with the telephone number of another. */
export function SamePage() {
  const chosen = useChosenClient();
  const list = useQuery({
    queryKey: ["conflicts", chosen?.key ?? ""],
    queryFn: () => unwrap(api.GET("/api/conflicts", { params: { query: { client: chosen?.key } } })),
  });
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead title="Same person?" beside="a person decides; either can be taken back" />
      <LeadTabs />
      {list.error && <ErrorTold error={list.error} again={() => void list.refetch()} />}
      {list.isPending && <Fetching what="leads that may be one" />}
      {list.data?.rows.length === 0 && (
        <Empty said="Nobody is in doubt.">When an email of one lead comes with the telephone number of another, both stand here.</Empty>
      )}
      {list.data?.rows.map((row) => (
        <Pair key={row.id} row={row} clientKey={chosen?.key} />
      ))}
    </Box>
  );
}

const first = ["first_name", "last_name", "email", "phone", "company"];

// Who they are first; what only programs read is left out.
function inOrder(keys: readonly string[]): string[] {
  const place = (k: string) => (first.includes(k) ? first.indexOf(k) : first.length);
  return [...new Set(keys)]
    .filter((k) => !["junk_score", "visitor_id", "pages_seen"].includes(k))
    .sort((a, b) => place(a) - place(b) || a.localeCompare(b));
}

function Pair({ row, clientKey }: { row: Schemas["ConflictRow"]; clientKey: string | undefined }) {
  const person = usePerson();
  const now = useNow(10_000);
  const zone = person.clients[0]?.zone ?? "UTC";
  const stale: string[][] = [["conflicts"], ["leads"], ["frame"], ["watch"], ["lead"]];
  const merge = useAct((choice: { keep: string; gone: string }) => unwrap(api.POST("/api/leads/merge", { body: choice })), ...stale);
  const apart = useAct(() => unwrap(api.POST("/api/conflicts/{conflictId}/apart", { params: { path: { conflictId: row.id } } })), ...stale);
  const undo = useAct(
    (regroupId: string) => unwrap(api.POST("/api/regroups/{regroupId}/undo", { params: { path: { regroupId } } })),
    ...stale,
  );
  const open = row.state === "open" && row.left && row.right;
  const error = merge.error ?? apart.error ?? undo.error;
  const mayTouch = may(person, "touch-leads");
  const keys = inOrder([...Object.keys(row.left?.fields ?? {}), ...Object.keys(row.right?.fields ?? {})]);
  return (
    <Box borderBottomWidth="1px" py="4" aria-label={row.words} role="group">
      <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap" mb="2">
        {row.state !== "open" && <State of="whole">{row.state === "merged" ? "one person" : "two people"}</State>}
        <Box>
          <b>{row.client}</b> · {row.words}
        </Box>
        <Box fontSize="13px" color="ink2">
          {row.decidedBy && row.decidedAt
            ? `decided by ${row.decidedBy} ${dayAndClock(row.decidedAt, now, zone)}`
            : `found ${dayAndClock(row.foundAt, now, zone)}`}
        </Box>
        {row.regroupId && mayTouch && (
          <Button size="small" disabled={undo.isPending} onClick={() => undo.mutate(row.regroupId as string)}>
            Take the merge back
          </Button>
        )}
      </Box>
      {open && row.left && row.right && (
        <>
          <Box
            display="grid"
            gridTemplateColumns={{ base: "1fr 1fr", md: "130px minmax(0, 1fr) minmax(0, 1fr)" }}
            columnGap="4"
            fontSize="14px"
            maxW="860px"
          >
            <Box display={{ base: "none", md: "block" }} />
            {[row.left, row.right].map((side) => (
              <Box key={side.id} fontWeight={700}>
                <Link to={withClient(`/leads/${side.id}`, clientKey)}>
                  <u>{side.name}</u>
                </Link>{" "}
                <Box as="span" fontWeight={400} color="ink2" fontSize="13px">
                  {side.submissions} {side.submissions === 1 ? "submission" : "submissions"}, asked {dayAndClock(side.askedAt, now, zone)}
                </Box>
              </Box>
            ))}
            {keys.map((key) => {
              const [left, right] = [row.left?.fields[key], row.right?.fields[key]];
              return (
                <Box key={key} display="contents">
                  <Box color="ink2" fontSize="13px" gridColumn={{ base: "1 / -1", md: "auto" }}>
                    {key.replaceAll("_", " ")}
                  </Box>
                  {[left, right].map((value, i) => (
                    <Box
                      // biome-ignore lint/suspicious/noArrayIndexKey: left and right
                      key={i}
                      overflowWrap="anywhere"
                      fontWeight={left && right && left !== right ? 600 : 400}
                    >
                      {value ?? (
                        <Box as="span" color="ink2">
                          –
                        </Box>
                      )}
                    </Box>
                  ))}
                </Box>
              );
            })}
          </Box>
          {mayTouch && (
            <Box display="flex" gap="3" mt="3" flexWrap="wrap">
              <Button
                look="primary"
                disabled={merge.isPending}
                onClick={() => merge.mutate({ keep: row.left?.id as string, gone: row.right?.id as string })}
              >
                One person, as {row.left.name}
              </Button>
              <Button
                disabled={merge.isPending}
                onClick={() => merge.mutate({ keep: row.right?.id as string, gone: row.left?.id as string })}
              >
                One person, as {row.right.name}
              </Button>
              <Button look="soft" disabled={apart.isPending} onClick={() => apart.mutate()}>
                Two people
              </Button>
            </Box>
          )}
        </>
      )}
      {error && <ErrorTold error={error} />}
    </Box>
  );
}
