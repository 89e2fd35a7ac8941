import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useParams, useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { useChosenClient } from "@/app/useChosenClient";
import { usePerson } from "@/app/useSession";
import { ComparePart } from "@/features/continuity/ComparePart";
import { DelaysPart } from "@/features/continuity/DelaysPart";
import { useLines } from "@/features/continuity/useLines";
import { Button } from "@/ui/Button";
import { PageHead, SectionHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock, secondsBetween, span } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { BackTold, Guide } from "./NewSourcePage";
import { AddressAndKey, DailyFilePart } from "./SourceAccess";
import { MakeForm, Offered, Places } from "./SourceChoices";
import { Found, Notices, Refused } from "./SourceNews";
import { FormLine } from "./SourcesPage";
import { UploadFile } from "./UploadFile";
import { accessWord, backWord } from "./words";

/** A source: its access, what is chosen of it, its forms, and what was refused. */
export function SourcePage() {
  const { sourceId = "" } = useParams();
  const source = useQuery({
    queryKey: ["source", sourceId],
    queryFn: () => unwrap(api.GET("/api/sources/{sourceId}", { params: { path: { sourceId } } })),
  });
  if (source.error)
    return (
      <Box p="5">
        <PageHead title="Source" />
        <ErrorTold error={source.error} again={() => void source.refetch()} />
      </Box>
    );
  return source.data ? (
    <WholeSource key={sourceId} whole={source.data} />
  ) : (
    <Box p="5">
      <Fetching what="the source" />
    </Box>
  );
}

function WholeSource({ whole }: { whole: Schemas["SourceDetail"] }) {
  const { source, card } = whole;
  const person = usePerson();
  const chosen = useChosenClient();
  const now = useNow(5000);
  const client = person.clients.find((c) => c.id === source.clientId);
  const zone = client?.zone ?? "UTC";
  const may = client?.may.includes("edit-sources") ?? false;
  const [search] = useSearchParams();
  const back = backWord(search.get("told"));
  const access = accessWord(source.access);
  const path = { params: { path: { sourceId: source.id } } };
  const refresh = useAct(() => unwrap(api.POST("/api/sources/{sourceId}/refresh", path)), ["source", source.id], ["sources"]);
  const again = useAct(() =>
    unwrap(api.POST("/api/connections/consent", { body: { client: null, kind: null, connectionId: whole.connectionId } })),
  );
  const connectAgain = async () => window.location.assign((await again.mutateAsync()).goTo);
  const lines = useLines({ client: client?.key });
  const offered = whole.all.filter((f) => f.state === "offered" && !f.archivedAt);
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead title={source.name} beside={`${source.client} · ${card.arrives}`}>
        {may && card.access === "consent" && (
          <>
            <Button look="soft" disabled={again.isPending} onClick={() => void connectAgain().catch(() => undefined)}>
              Connect again
            </Button>
            <Button disabled={refresh.isPending} onClick={() => refresh.mutate()}>
              {refresh.isPending ? "Looking …" : "Look now"}
            </Button>
          </>
        )}
      </PageHead>
      {back && <BackTold back={back} />}
      {(refresh.error || again.error) && <ErrorTold error={refresh.error ?? again.error} />}
      <Box display="grid" gridTemplateColumns={{ base: "1fr", xl: "minmax(0, 1.7fr) minmax(0, 1fr)" }} gap="10">
        <Box minW="0">
          {source.fault && (
            <Box borderLeftWidth="4px" borderColor="cinder" bg="card" p="3" mb="4" color="cinder" role="alert">
              {source.fault}
            </Box>
          )}
          {card.placeWord && may && <Places whole={whole} />}
          <SectionHead mt="2">Forms that send to us</SectionHead>
          {source.forms.map((f) => (
            <FormLine narrow key={f.id} form={f} line={lines.data?.lines.find((l) => l.formId === f.id)} clientKey={chosen?.key} />
          ))}
          {source.forms.length === 0 && <Box color="ink2">None yet.</Box>}
          {may && card.makesForms && <MakeForm source={source} />}
          {offered.length > 0 && source.kind !== "file" && <Offered forms={offered} may={may} sourceId={source.id} />}
          <ComparePart sourceId={source.id} source={card.name} forms={source.forms} may={may} now={now} />
          {whole.found.length > 0 && <Found lines={whole.found} zone={zone} now={now} />}
          <Refused lines={whole.refused} zone={zone} now={now} />
          <Notices lines={whole.notices} />
        </Box>
        <Box minW="0">
          {access && (
            <Box mb="5">
              <SectionHead>
                Access <State of={access.of}>{access.word}</State>
              </SectionHead>
              {whole.account && <Box fontSize="14px">Given by {whole.account}.</Box>}
              {source.expiresAt && (
                <Box fontSize="14px">
                  {secondsBetween(now, source.expiresAt) > 0
                    ? `Runs out in ${span(secondsBetween(now, source.expiresAt))}, ${dayAndClock(source.expiresAt, now, zone)}.`
                    : `Ran out ${dayAndClock(source.expiresAt, now, zone)}.`}
                </Box>
              )}
              <Box as="ul" listStyleType="none" mt="2">
                {whole.permissions.map((p) => (
                  <Box as="li" key={p.key} fontSize="14px" mb="1" color={p.given ? "ink" : "cinder"}>
                    {p.given ? "◆" : "◇"} {p.name}
                    {!p.given && `: not given, so ${p.without}`}
                  </Box>
                ))}
              </Box>
              {source.lookedAt && (
                <Box fontSize="13px" color="ink2">
                  Looked at {span(secondsBetween(source.lookedAt, now))} ago; again every ten minutes.
                </Box>
              )}
            </Box>
          )}
          <DelaysPart sourceId={source.id} network={source.name} forms={source.forms} />
          {whole.sendTo && <AddressAndKey whole={whole} may={may} />}
          {source.kind === "lanternfind" && <DailyFilePart whole={whole} may={may} />}
          {source.kind === "file" && may && client && (
            <Box mb="5">
              <SectionHead>Another file</SectionHead>
              <UploadFile client={client.key} />
            </Box>
          )}
          <Guide card={card} />
        </Box>
      </Box>
    </Box>
  );
}
