import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { LeadTabs } from "@/app/LeadTabs";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { may, usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { Input } from "@/ui/Field";
import { PageHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";

const stale = [["tray"], ["frame"], ["watch"], ["leads"]];

/** Texts and letters from nobody we know, until somebody says whose they are. */
export function TrayPage() {
  const chosen = useChosenClient();
  const tray = useQuery({
    queryKey: ["tray", chosen?.key ?? ""],
    queryFn: () => unwrap(api.GET("/api/tray", { params: { query: { client: chosen?.key } } })),
  });
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead title="Tray" beside="they wrote to us, and no lead has their number or address" />
      <LeadTabs />
      {tray.error && <ErrorTold error={tray.error} again={() => void tray.refetch()} />}
      {tray.isPending && <Fetching what="the tray" />}
      {tray.data?.messages.length === 0 && (
        <Empty said="Nothing lies here.">A text or a letter from somebody who is no lead waits here, so that none is overlooked.</Empty>
      )}
      {tray.data?.messages.map((m) => (
        <Message key={m.id} message={m} showClient={!chosen} />
      ))}
      {tray.data && tray.data.total > tray.data.messages.length && (
        <Box color="ink2" mt="3">
          The newest {tray.data.messages.length} are shown, of {tray.data.total}.
        </Box>
      )}
    </Box>
  );
}

function Message({ message: m, showClient }: { message: Schemas["TrayMessage"]; showClient: boolean }) {
  const person = usePerson();
  const now = useNow(10_000);
  const chosen = useChosenClient();
  const [giving, setGiving] = useState(false);
  const client = person.clients.find((c) => c.id === m.clientId);
  const dismiss = useAct(() => unwrap(api.POST("/api/tray/{messageId}/dismiss", { params: { path: { messageId: m.id } } })), ...stale);
  const give = useGive(m.id);
  const add = new URLSearchParams({ client: client?.key ?? "", [m.way === "text" ? "phone" : "email"]: m.from });
  return (
    <Box role="group" aria-label={`From ${m.from}`} borderBottomWidth="1px" borderColor="line2" py="3" maxW="860px">
      <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap">
        <Box fontFamily="mono" fontWeight={700} overflowWrap="anywhere">
          {m.from || "nobody named"}
        </Box>
        <Box color="ink2" fontSize="13px">
          {[m.way === "text" ? "a text" : "a letter", showClient ? m.client : null, dayAndClock(m.at, now, client?.zone ?? "UTC")]
            .filter(Boolean)
            .join(" · ")}
        </Box>
        {m.automatic && <State of="waiting">written by a machine</State>}
      </Box>
      {m.fault && <Box color="cinder">{m.fault} It stands here as it came.</Box>}
      {m.subject && <Box fontWeight={600}>{m.subject}</Box>}
      <Box whiteSpace="pre-wrap" overflowWrap="anywhere" css={{ unicodeBidi: "isolate" }} lineClamp={8}>
        {m.words || "nothing but an empty message"}
      </Box>
      {may(person, "touch-leads", m.clientId) && (
        <Box display="flex" gap="3" mt="2" flexWrap="wrap">
          <Button size="small" onClick={() => setGiving(!giving)} aria-expanded={giving}>
            It is a lead’s …
          </Button>
          {m.leadId ? (
            <Button size="small" look="primary" disabled={give.isPending} onClick={() => m.leadId && give.mutate(m.leadId)}>
              It is {m.lead}’s
            </Button>
          ) : (
            <Box asChild fontSize="14px" alignSelf="center">
              <Link to={`/leads/new?${add}`}>
                <u>Make a lead of them</u>
              </Link>
            </Box>
          )}
          <Button size="small" look="soft" disabled={dismiss.isPending} onClick={() => dismiss.mutate()}>
            It is nobody’s
          </Button>
        </Box>
      )}
      {giving && <Give give={give} clientKey={client?.key} chosen={chosen?.key} />}
      {give.error && <ErrorTold error={give.error} />}
      {dismiss.error && <ErrorTold error={dismiss.error} />}
    </Box>
  );
}

const useGive = (messageId: string) =>
  useAct(
    (leadId: string) => unwrap(api.POST("/api/tray/{messageId}/give", { params: { path: { messageId } }, body: { leadId } })),
    ...stale,
  );

type GiveProps = { give: ReturnType<typeof useGive>; clientKey: string | undefined; chosen: string | undefined };

function Give({ give, clientKey, chosen }: GiveProps) {
  const [q, setQ] = useState("");
  const found = useQuery({
    queryKey: ["leads", "for-tray", clientKey ?? "", q],
    enabled: q.trim().length > 1,
    queryFn: () => unwrap(api.GET("/api/leads", { params: { query: { client: clientKey, q, size: 6 } as never } })),
  });
  const leads = q.trim().length > 1 ? (found.data?.items ?? []).slice(0, 6) : [];
  return (
    <Box mt="2" maxW="460px">
      <Input
        aria-label="Whose it is"
        placeholder="a name, an address, a number"
        value={q}
        autoFocus
        onChange={(e) => setQ(e.target.value)}
      />
      <chakra.ul listStyleType="none" m="0" p="0">
        {leads.map((l) => (
          <chakra.li key={l.id} display="flex" gap="3" alignItems="center" py="1">
            <Link to={withClient(`/leads/${l.id}`, chosen)}>
              <u>{l.name}</u>
            </Link>
            <Box color="ink2" fontSize="13px" flex="1" truncate>
              {[l.form, l.email, l.phone].filter(Boolean).join(" · ")}
            </Box>
            <Button size="small" disabled={give.isPending} onClick={() => give.mutate(l.id)} aria-label={`It is ${l.name}’s`}>
              Theirs
            </Button>
          </chakra.li>
        ))}
      </chakra.ul>
      {q.trim().length > 1 && found.data && leads.length === 0 && (
        <Box color="ink2" fontSize="14px">
          No lead of this client is like that.
        </Box>
      )}
    </Box>
  );
}
