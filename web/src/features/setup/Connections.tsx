import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, told } from "@/api/client";
import type { Person } from "@/features/accounts/useSession";
import { useChosenClient } from "@/features/frame/useChosenClient";
import { accessWord } from "@/features/sources/words";
import { Button } from "@/ui/Button";
import { SectionHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { secondsBetween, span } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { AccessForm, ConnectService } from "./ConnectService";
import { healthWords } from "./health";
import { MailServer } from "./MailServer";

/** Stored access to outside services: who uses it, how it does, and getting more of it. */
export function Connections({ one }: { one: Person["clients"][number] | undefined }) {
  const chosen = useChosenClient();
  const list = useQuery({
    queryKey: ["connections", chosen?.key ?? ""],
    queryFn: () => told(api.GET("/api/connections", { params: { query: { client: chosen?.key } } })),
  });
  return (
    <Box mb="8">
      <SectionHead>Connections</SectionHead>
      {list.error && <ErrorTold error={list.error} again={() => void list.refetch()} />}
      {list.isPending && <Fetching what="connections" />}
      {list.data?.connections.length === 0 && (
        <Empty said="Nothing is connected yet.">Connect a service below, or a source under Sources.</Empty>
      )}
      {list.data?.connections.map((c) => (
        <ConnectionLine key={c.id} connection={c} />
      ))}
      {one && (
        <Box display="flex" gap="3" mt="4" flexWrap="wrap" alignItems="flex-start">
          <ConnectService key={`${one.key} service`} client={one.key} clientName={one.shortName} />
          <MailServer key={one.key} client={one.key} />
        </Box>
      )}
    </Box>
  );
}

function ConnectionLine({ connection: c }: { connection: Schemas["ConnectionRow"] }) {
  const now = useNow(5000);
  const [giving, setGiving] = useState(false);
  const path = { params: { path: { connectionId: c.id } } };
  const verify = useAct(() => told(api.POST("/api/connections/{connectionId}/verify", path)), ["connections"], ["sources"]);
  const remove = useAct(() => told(api.DELETE("/api/connections/{connectionId}", path)), ["connections"], ["sources"]);
  const again = useAct(() => told(api.POST("/api/connections/consent", { body: { client: null, kind: null, connectionId: c.id } })));
  const state = accessWord(c.state);
  const error = verify.error ?? remove.error ?? again.error;
  const left = c.expiresAt ? secondsBetween(now, c.expiresAt) : null;
  return (
    <Box borderBottomWidth="1px" borderColor="line2" py="2" role="group" aria-label={`${c.name} of ${c.client}`}>
      <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap">
        <Box fontWeight={600}>{c.name}</Box>
        <Box color="ink2" fontSize="14px">
          {[c.client, c.service !== c.name ? c.service : null, c.account].filter(Boolean).join(" · ")}
        </Box>
        {state && <State of={state.of}>{state.word}</State>}
        {left !== null && (
          <Box fontSize="13px" color={left < 7 * 86_400 ? "cinder" : "ink2"}>
            {left > 0 ? `runs out in ${span(left)}` : "ran out"}
          </Box>
        )}
        <Box ml="auto" display="flex" gap="2">
          {c.canVerify && (
            <Button size="small" disabled={verify.isPending} onClick={() => verify.mutate()} aria-label={`Verify ${c.name} of ${c.client}`}>
              Verify
            </Button>
          )}
          {c.asks.length > 0 && (
            <Button size="small" look="soft" onClick={() => setGiving(!giving)} aria-expanded={giving}>
              New key
            </Button>
          )}
          {c.byConsent && (
            <Button
              size="small"
              look="soft"
              onClick={() => again.mutate(undefined, { onSuccess: ({ goTo }) => window.location.assign(goTo) })}
            >
              Connect again
            </Button>
          )}
          <Button
            size="small"
            look="soft"
            disabled={remove.isPending}
            onClick={() => window.confirm(`Take out the connection ${c.name} of ${c.client}?`) && remove.mutate()}
            aria-label={`Take out ${c.name} of ${c.client}`}
          >
            Take out
          </Button>
        </Box>
      </Box>
      <Box fontSize="13px" color="ink2">
        {[
          c.usedBy.length > 0 ? `Used by ${c.usedBy.join(", ")}.` : "Nothing uses it.",
          healthWords(c.health ?? null, now),
          c.verifiedAt ? `Asked ${span(Math.max(0, secondsBetween(c.verifiedAt, now)))} ago.` : null,
        ]
          .filter(Boolean)
          .join(" ")}
      </Box>
      {c.fault && (
        <Box color="cinder" fontSize="14px">
          {c.fault}
        </Box>
      )}
      {verify.data && (
        <Box role="status" fontSize="13px" color="ink2">
          {verify.data.fault
            ? "Asked just now."
            : verify.data.granted.length > 0
              ? `Asked just now: it may ${verify.data.granted.join(", ")}.`
              : "Asked just now: it works."}
        </Box>
      )}
      {giving && (
        <chakra.div mt="2" maxW="460px">
          <AccessForm connection={c} done={() => setGiving(false)} />
        </chakra.div>
      )}
      {error && <ErrorTold error={error} />}
    </Box>
  );
}
