import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { useChosenClient } from "@/app/useChosenClient";
import { type Person, usePerson } from "@/app/useSession";
import { LinesOf } from "@/features/continuity/LinesOf";
import { useAt } from "@/features/continuity/useAt";
import { accessWord } from "@/features/sources/words";
import { Button } from "@/ui/Button";
import { SectionHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { secondsBetween, span } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { LimitsForm, SecretForm } from "./ConnectionFlow";
import { AccessForm, ConnectService } from "./ConnectService";
import { healthWords } from "./health";
import { MailServer } from "./MailServer";
import { MailSetup } from "./MailSetup";

/** Stored access to outside services: who uses it, how it does, and getting more of it. */
export function Connections({ one }: { one: Person["clients"][number] | undefined }) {
  const chosen = useChosenClient();
  const list = useQuery({
    queryKey: ["connections", chosen?.key ?? ""],
    queryFn: () => unwrap(api.GET("/api/connections", { params: { query: { client: chosen?.key } } })),
  });
  useAt(list.data !== undefined);
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
        <Box id="connect" display="flex" gap="3" mt="4" flexWrap="wrap" alignItems="flex-start">
          <ConnectService key={`${one.key} service`} client={one.key} clientName={one.shortName} />
          <MailServer key={one.key} client={one.key} />
        </Box>
      )}
    </Box>
  );
}

function ConnectionLine({ connection: c }: { connection: Schemas["ConnectionRow"] }) {
  const now = useNow(5000);
  const [doing, setDoing] = useState<"key" | "limits" | "secret" | "mail" | null>(null);
  const path = { params: { path: { connectionId: c.id } } };
  const verify = useAct(() => unwrap(api.POST("/api/connections/{connectionId}/verify", path)), ["connections"], ["sources"]);
  const remove = useAct(() => unwrap(api.DELETE("/api/connections/{connectionId}", path)), ["connections"], ["sources"]);
  const again = useAct(() => unwrap(api.POST("/api/connections/consent", { body: { client: null, kind: null, connectionId: c.id } })));
  const state = accessWord(c.state);
  const client = usePerson().clients.find((x) => x.shortName === c.client);
  const pause = useAct(() => unwrap(api.POST("/api/connections/{connectionId}/pause", path)), ["connections"], ["deliveries"]);
  const resume = useAct(() => unwrap(api.POST("/api/connections/{connectionId}/resume", path)), ["connections"], ["deliveries"]);
  const flip = (what: typeof doing) => setDoing(doing === what ? null : what);
  const sends = c.health !== null || c.asks.length > 0;
  const error = verify.error ?? remove.error ?? again.error ?? pause.error ?? resume.error;
  const left = c.expiresAt ? secondsBetween(now, c.expiresAt) : null;
  return (
    <Box
      id={`connection-${c.id}`}
      borderBottomWidth="1px"
      borderColor="line2"
      py="2"
      role="group"
      aria-label={`${c.name} of ${c.client}`}
      css={{ "&[data-here]": { borderLeft: "4px solid var(--chakra-colors-cinder)", paddingLeft: "8px" } }}
    >
      <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap">
        <Box fontWeight={600}>{c.name}</Box>
        <Box color="ink2" fontSize="14px">
          {[c.client, c.service !== c.name ? c.service : null, c.account].filter(Boolean).join(" · ")}
        </Box>
        {state && <State of={state.of}>{state.word}</State>}
        {c.pausedAt && (
          <State of="waiting">
            paused {span(Math.max(0, secondsBetween(c.pausedAt, now)))}
            {c.pausedBy ? ` by ${c.pausedBy}` : ""}
          </State>
        )}
        {left !== null && (
          <Box fontSize="13px" color={left < 7 * 86_400 ? "cinder" : "ink2"}>
            {left > 0 ? `runs out in ${span(left)}` : "ran out"}
          </Box>
        )}
        <Box ml="auto" display="flex" gap="3" alignItems="baseline">
          {c.canVerify && (
            <Button size="small" disabled={verify.isPending} onClick={() => verify.mutate()} aria-label={`Verify ${c.name} of ${c.client}`}>
              Verify
            </Button>
          )}
          {c.asks.length > 0 && (
            <Button look="quiet" fontSize="13px" fontWeight={400} onClick={() => flip("key")} aria-expanded={doing === "key"}>
              {c.makesSecret ? "New address" : "New key"}
            </Button>
          )}
          {c.kind === "pillarpost" && (
            <Button look="quiet" fontSize="13px" fontWeight={400} onClick={() => flip("mail")} aria-expanded={doing === "mail"}>
              Answers and signing
            </Button>
          )}
          {c.makesSecret && (
            <Button look="quiet" fontSize="13px" fontWeight={400} onClick={() => flip("secret")} aria-expanded={doing === "secret"}>
              New secret
            </Button>
          )}
          {sends && (
            <Button look="quiet" fontSize="13px" fontWeight={400} onClick={() => flip("limits")} aria-expanded={doing === "limits"}>
              Limits
            </Button>
          )}
          {sends &&
            (c.pausedAt ? (
              <Button
                size="small"
                disabled={resume.isPending}
                onClick={() => resume.mutate()}
                aria-label={`Resume ${c.name} of ${c.client}`}
              >
                Resume
              </Button>
            ) : (
              <Button
                look="quiet"
                fontSize="13px"
                fontWeight={400}
                disabled={pause.isPending}
                onClick={() => pause.mutate()}
                aria-label={`Pause ${c.name} of ${c.client}`}
              >
                Pause
              </Button>
            ))}
          {c.byConsent && (
            <Button
              look="quiet"
              fontSize="13px"
              fontWeight={400}
              onClick={() => again.mutate(undefined, { onSuccess: ({ goTo }) => window.location.assign(goTo) })}
            >
              Connect again
            </Button>
          )}
          <Button
            look="quiet"
            fontSize="13px"
            fontWeight={400}
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
          c.atOnce || c.perMinute
            ? `At most ${[c.atOnce ? `${c.atOnce} at once` : null, c.perMinute ? `${c.perMinute} a minute` : null].filter(Boolean).join(" and ")}.`
            : null,
          c.olderUntil ? `The secret before signs too, for ${span(Math.max(0, secondsBetween(now, c.olderUntil)))} yet.` : null,
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
      {client && <LinesOf connection={c.id} clientId={client.id} />}
      {verify.data && (
        <Box role="status" fontSize="13px" color="ink2">
          {verify.data.fault
            ? "Asked just now."
            : verify.data.granted.length > 0
              ? `Asked just now: it may ${verify.data.granted.join(", ")}.`
              : "Asked just now: it works."}
        </Box>
      )}
      {doing === "key" && (
        <chakra.div mt="2" maxW="460px">
          <AccessForm connection={c} done={() => setDoing(null)} />
        </chakra.div>
      )}
      {doing === "limits" && <LimitsForm connection={c} done={() => setDoing(null)} />}
      {doing === "mail" && <MailSetup connection={c} />}
      {doing === "secret" && <SecretForm connection={c} done={() => setDoing(null)} />}
      {error && <ErrorTold error={error} />}
    </Box>
  );
}
