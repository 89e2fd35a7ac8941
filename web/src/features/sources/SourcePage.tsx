import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { api, Problem, type Schemas, told } from "@/api/client";
import { usePerson } from "@/features/accounts/useSession";
import { useChosenClient, withClient } from "@/features/frame/useChosenClient";
import { Button } from "@/ui/Button";
import { ToPaste } from "@/ui/Copy";
import { Field, Input } from "@/ui/Field";
import { PageHead, SectionHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock, secondsBetween, span } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { BackTold, Guide } from "./NewSourcePage";
import { FormLine } from "./SourcesPage";
import { UploadFile } from "./UploadFile";
import { accessWord, backWord } from "./words";

/** A source: its access, what is chosen of it, its forms, and what was refused. */
export function SourcePage() {
  const { sourceId = "" } = useParams();
  const source = useQuery({
    queryKey: ["source", sourceId],
    queryFn: () => told(api.GET("/api/sources/{sourceId}", { params: { path: { sourceId } } })),
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

function WholeSource({ whole }: { whole: Schemas["SourceWhole"] }) {
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
  const refresh = useAct(() => told(api.POST("/api/sources/{sourceId}/refresh", path)), ["source", source.id], ["sources"]);
  const again = useAct(() =>
    told(api.POST("/api/connections/consent", { body: { client: null, kind: null, connectionId: whole.connectionId } })),
  );
  const connectAgain = async () => window.location.assign((await again.mutateAsync()).goTo);
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
            <FormLine key={f.id} form={f} clientKey={chosen?.key} />
          ))}
          {source.forms.length === 0 && <Box color="ink2">None yet.</Box>}
          {may && card.makesForms && <MakeForm source={source} />}
          {offered.length > 0 && source.kind !== "file" && <Offered forms={offered} may={may} sourceId={source.id} />}
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

function Places({ whole }: { whole: Schemas["SourceWhole"] }) {
  const { source, card } = whole;
  const path = { params: { path: { sourceId: source.id } } };
  const places = useQuery({ queryKey: ["places", source.id], queryFn: () => told(api.GET("/api/sources/{sourceId}/places", path)) });
  const [picked, setPicked] = useState<string[] | null>(null);
  const choose = useAct(
    (ids: string[]) => told(api.PUT("/api/sources/{sourceId}/places", { ...path, body: { ids } })),
    ["source", source.id],
    ["sources"],
  );
  const all = places.data?.places ?? [];
  const ids = picked ?? (whole.places.length > 0 ? whole.places.map((p) => p.id) : all.map((p) => p.id));
  const turn = (id: string) => setPicked(ids.includes(id) ? ids.filter((i) => i !== id) : [...ids, id]);
  return (
    <Box mb="5">
      <SectionHead>Which {card.placeWord}s</SectionHead>
      {places.error && <ErrorTold error={places.error} again={() => void places.refetch()} />}
      {places.isPending && <Fetching what={`the ${card.placeWord}s`} />}
      {places.data && all.length === 0 && (
        <Box color="ink2">On the consent page no {card.placeWord} was given. Connect again and tick one.</Box>
      )}
      <Box display="flex" flexWrap="wrap" columnGap="5" rowGap="1">
        {all.map((p) => (
          <chakra.label key={p.id} display="flex" gap="2" alignItems="center" minH="30px">
            <input type="checkbox" checked={ids.includes(p.id)} onChange={() => turn(p.id)} /> {p.name}
          </chakra.label>
        ))}
      </Box>
      {picked && (
        <Box mt="2" display="flex" gap="3" alignItems="center">
          <Button
            size="small"
            disabled={choose.isPending || ids.length === 0}
            onClick={() => choose.mutate(ids.length === all.length ? [] : ids, { onSuccess: () => setPicked(null) })}
          >
            {ids.length === all.length ? `Take all, later ones too` : `Take ${ids.length} of ${all.length}`}
          </Button>
          {ids.length === 0 && <Box fontSize="13px">Tick at least one.</Box>}
        </Box>
      )}
      {choose.error && <ErrorTold error={choose.error} />}
    </Box>
  );
}

function Offered({ forms, may, sourceId }: { forms: readonly Schemas["FormRow"][]; may: boolean; sourceId: string }) {
  const chosen = useChosenClient();
  const navigate = useNavigate();
  const choose = useAct(
    (formId: string) => told(api.POST("/api/forms/{formId}/choose", { params: { path: { formId } } })),
    ["source", sourceId],
    ["sources"],
    ["forms"],
  );
  const take = async (id: string) => {
    await choose.mutateAsync(id);
    void navigate(withClient(`/sources/${id}`, chosen?.key));
  };
  return (
    <Box mt="5">
      <SectionHead>Found there, not chosen</SectionHead>
      {forms.map((f) => (
        <Box key={f.id} display="flex" gap="3" alignItems="center" borderBottomWidth="1px" borderColor="line2" minH="40px" flexWrap="wrap">
          <Box fontWeight={600}>{f.name}</Box>
          <Box fontSize="13px" color="ink2">
            {[f.place, f.adState === "waiting" ? "ad awaits approval" : f.adState === "stopped" ? "ad stopped" : f.adState && "ad running"]
              .filter(Boolean)
              .join(" · ")}
          </Box>
          {may && (
            <Button
              size="small"
              ml="auto"
              disabled={choose.isPending}
              onClick={() => void take(f.id).catch(() => undefined)}
              aria-label={`Choose ${f.name}`}
            >
              Choose, and see its map
            </Button>
          )}
        </Box>
      ))}
      {choose.error && <ErrorTold error={choose.error} />}
    </Box>
  );
}

function MakeForm({ source }: { source: Schemas["SourceRow"] }) {
  const chosen = useChosenClient();
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const make = useAct(
    (built: boolean) => told(api.POST("/api/forms", { body: { sourceId: source.id, name, built } })),
    ["source", source.id],
    ["sources"],
    ["forms"],
  );
  const go = async (built: boolean) => {
    const { id } = await make.mutateAsync(built);
    void navigate(withClient(`/sources/${id}${built ? "/build" : ""}`, chosen?.key));
  };
  const website = source.kind === "website";
  return (
    <chakra.form
      mt="4"
      onSubmit={(e) => {
        e.preventDefault();
        go(website).catch(() => undefined);
      }}
    >
      <Field
        label={source.kind === "hook" ? "A new hook, called" : "A new form, called"}
        error={make.error instanceof Problem ? make.error.fieldError("name") : null}
      >
        {(ids) => (
          <Box display="flex" gap="2" flexWrap="wrap">
            <Input {...ids} value={name} onChange={(e) => setName(e.target.value)} maxW="280px" required />
            <Button type="submit" disabled={make.isPending || !name.trim()}>
              {website ? "Build it here" : "Make it"}
            </Button>
            {website && (
              <Button
                type="button"
                look="soft"
                disabled={make.isPending || !name.trim()}
                onClick={() => void go(false).catch(() => undefined)}
              >
                The page has it already
              </Button>
            )}
          </Box>
        )}
      </Field>
      {make.error && !(make.error instanceof Problem && make.error.fieldError("name")) && <ErrorTold error={make.error} />}
    </chakra.form>
  );
}

function AddressAndKey({ whole, may }: { whole: Schemas["SourceWhole"]; may: boolean }) {
  const path = { params: { path: { sourceId: whole.source.id } } };
  const [key, setKey] = useState<string | null>(null);
  const show = useAct(() => told(api.GET("/api/sources/{sourceId}/key", path)));
  const renew = useAct(() => told(api.POST("/api/sources/{sourceId}/key", path)));
  const asKey = (made: { key: string }) => setKey(made.key);
  return (
    <Box mb="5">
      <SectionHead>To paste at {whole.card.name}</SectionHead>
      <Box fontSize="13px" color="ink2">
        Address
      </Box>
      <ToPaste text={whole.sendTo ?? ""} label="Copy the address" />
      <Box fontSize="13px" color="ink2">
        {whole.source.kind === "formbench" ? "Signing secret" : "Key"}
      </Box>
      {key ? (
        <ToPaste text={key} label="Copy the key" />
      ) : (
        <Box fontFamily="mono" fontSize="13px" mb="2">
          ••••••••••••••••••••
        </Box>
      )}
      {may && (
        <Box display="flex" gap="3">
          {!key && (
            <Button size="small" onClick={() => show.mutate(undefined, { onSuccess: asKey })}>
              Show the key
            </Button>
          )}
          <Button
            size="small"
            look="soft"
            onClick={() =>
              window.confirm("The old key is refused from this moment. Make a new one?") && renew.mutate(undefined, { onSuccess: asKey })
            }
          >
            Make a new key
          </Button>
        </Box>
      )}
      {(show.error || renew.error) && <ErrorTold error={show.error ?? renew.error} />}
    </Box>
  );
}

function DailyFilePart({ whole, may }: { whole: Schemas["SourceWhole"]; may: boolean }) {
  const path = { params: { path: { sourceId: whole.source.id } } };
  const chosen = useChosenClient();
  const navigate = useNavigate();
  const person = usePerson();
  const plan = useQuery({
    queryKey: ["daily-file", whole.source.id],
    queryFn: () => told(api.GET("/api/sources/{sourceId}/daily-file", path)),
  });
  const [url, setUrl] = useState<string | null>(null);
  const save = useAct(
    () => told(api.PUT("/api/sources/{sourceId}/daily-file", { ...path, body: { url } })),
    ["daily-file", whole.source.id],
  );
  const pick = useAct(() => told(api.POST("/api/sources/{sourceId}/daily-file", path)), ["imports"]);
  const pickNow = async () => void navigate(withClient(`/sources/files/${(await pick.mutateAsync()).id}`, chosen?.key));
  const client = person.clients.find((c) => c.id === whole.source.clientId);
  return (
    <Box mb="5">
      <SectionHead>Its daily file</SectionHead>
      <Field
        label="Picked up every morning from"
        hint="{date} stands for the day before. What was pushed already adds nothing."
        error={save.error instanceof Problem ? save.error.fieldError("url") : null}
      >
        {(ids) => (
          <Input
            {...ids}
            value={url ?? plan.data?.url ?? ""}
            disabled={!may}
            placeholder="https://…/{date}.csv"
            onChange={(e) => setUrl(e.target.value)}
          />
        )}
      </Field>
      {may && (
        <Box display="flex" gap="3" flexWrap="wrap" mb="3">
          {url !== null && (
            <Button size="small" onClick={() => save.mutate(undefined, { onSuccess: () => setUrl(null) })}>
              Save
            </Button>
          )}
          <Button
            size="small"
            look="soft"
            disabled={!plan.data?.url || pick.isPending}
            onClick={() => void pickNow().catch(() => undefined)}
          >
            Pick up today's now
          </Button>
        </Box>
      )}
      {pick.error && <ErrorTold error={pick.error} />}
      {may && client && <UploadFile client={client.key} source={whole.source.id} />}
    </Box>
  );
}

type Told = { zone: string; now: number };

function Found({ lines, zone, now }: { lines: readonly Schemas["FoundLine"][] } & Told) {
  return (
    <Box mt="6">
      <SectionHead>Found lately</SectionHead>
      {lines.map((l) => (
        <Box key={`${l.formId}${l.at}${l.words}`} fontSize="14px" display="grid" gridTemplateColumns="130px 1fr" gap="3" mb="1">
          <Box fontFamily="mono" fontSize="13px" color="ink2">
            {dayAndClock(l.at, now, zone)}
          </Box>
          <Box>
            <b>{l.form}</b> {l.words}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

function Refused({ lines, zone, now }: { lines: readonly Schemas["RefusalLine"][] } & Told) {
  if (lines.length === 0) return null;
  return (
    <Box mt="6">
      <SectionHead>Refused at the door</SectionHead>
      {lines.map((l) => (
        <Box key={`${l.lastAt}${l.detail}`} borderLeftWidth="3px" borderColor="cinder" pl="3" mb="3" fontSize="14px">
          <Box>
            {l.detail} {l.form && `(${l.form})`}
          </Box>
          <Box color="ink2">{l.mend}</Box>
          <Box fontFamily="mono" fontSize="12px" color="ink2">
            {l.times === 1 ? "once" : `${l.times} times`}, last {dayAndClock(l.lastAt, now, zone, true)}, from {l.fromAddress}
          </Box>
        </Box>
      ))}
    </Box>
  );
}

const noticeWords = {
  due: "waiting to be fetched",
  "not-chosen": "of forms that are not chosen: choose the form and they are fetched",
  failed: "could not be fetched",
  done: "fetched",
} as const;

function Notices({ lines }: { lines: readonly Schemas["NoticeLine"][] }) {
  if (lines.length === 0) return null;
  return (
    <Box mt="6">
      <SectionHead>Told of, not here</SectionHead>
      {lines.map((l) => (
        <Box key={`${l.status}${l.reason}`} fontSize="14px" mb="1">
          <b>{l.count}</b> {noticeWords[l.status]}
          {l.reason && l.status !== "not-chosen" && <Box color="ink2">{l.reason}</Box>}
        </Box>
      ))}
    </Box>
  );
}
