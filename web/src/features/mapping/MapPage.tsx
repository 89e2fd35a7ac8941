import { Box } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { usePageKeys } from "@/app/useKeys";
import { usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { PageHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { copied, type Draft, firstDraft, fromRow, same, toRows, withConstant, wrong } from "./draft";
import { AddConstant, CopyFrom, Locale, Samples, Versions } from "./MapParts";
import { MapRowLine } from "./MapRowLine";
import { ReprocessPanel } from "./ReprocessPanel";
import { useMap, useTried } from "./useMap";

/** A form's field map: each field beside a real sample, where it goes, and the value this gives now. */
export function MapPage() {
  const { formId = "" } = useParams();
  const map = useMap(formId);
  const form = usePersonalForm(map.data);
  if (map.error) {
    return (
      <Box p="5">
        <PageHead title="Field map" />
        <ErrorTold error={map.error} again={() => void map.refetch()} />
      </Box>
    );
  }
  return map.data ? (
    <Editor key={`${formId} ${map.data.version}`} whole={map.data} {...form} />
  ) : (
    <Box p="5">
      <Fetching what="the map" />
    </Box>
  );
}

function usePersonalForm(whole: Schemas["MapDetail"] | undefined) {
  const person = usePerson();
  const client = person.clients.find((c) => c.key === whole?.client);
  return { may: client?.may.includes("edit-sources") ?? false, zone: client?.zone ?? "UTC", clientName: client?.name ?? "" };
}

type EditorProps = { whole: Schemas["MapDetail"]; may: boolean; zone: string; clientName: string };

// What was changed and not confirmed stays with this browser until it is confirmed or put back.
const storeKey = (whole: Schemas["MapDetail"]) => `map ${whole.formId} ${whole.version}`;

function stored(whole: Schemas["MapDetail"], first: Draft): Draft {
  try {
    const kept = JSON.parse(sessionStorage.getItem(storeKey(whole)) ?? "null") as Draft | null;
    const names = new Set(kept?.rows.flatMap((r) => [r.field, ...r.with]));
    // A field that came since is missing in it.
    return kept && first.rows.every((r) => names.has(r.field) || r.field === "") ? kept : first;
  } catch {
    return first;
  }
}

function Editor({ whole, may, zone, clientName }: EditorProps) {
  const now = useNow(5000);
  const [first, setFirst] = useState(() => firstDraft(whole));
  const [draft, setDraft] = useState(() => stored(whole, first));
  const [at, setAt] = useState(0);
  // Fields that came while the page is open get their rows, and what was chosen meanwhile stays.
  useEffect(() => {
    const next = firstDraft(whole);
    const known = new Set(draft.rows.flatMap((r) => [r.field, ...r.with]));
    const fresh = next.rows.filter((r) => r.field !== "" && !known.has(r.field));
    setFirst(next);
    if (fresh.length > 0) setDraft((d) => ({ ...d, rows: [...d.rows, ...fresh] }));
  }, [whole, draft.rows.flatMap]);
  const changed = !same(draft, first);
  useEffect(() => {
    if (changed) sessionStorage.setItem(storeKey(whole), JSON.stringify(draft));
    else sessionStorage.removeItem(storeKey(whole));
  }, [changed, draft, whole]);
  const tried = useTried(whole.formId, draft);
  const confirm = useAct(
    () =>
      unwrap(
        api.PUT("/api/forms/{formId}/map", {
          params: { path: { formId: whole.formId } },
          body: { rows: toRows(draft), locale: draft.locale || null, version: whole.version },
        }),
      ),
    ["form", whole.formId],
    ["forms"],
    ["sources"],
    ["watch"],
    ["frame"],
  );
  const { stops, odd } = wrong(draft);
  const open = !whole.confirmed || changed;
  const doConfirm = () => {
    sessionStorage.removeItem(storeKey(whole));
    confirm.mutate();
  };
  const place = Math.min(at, Math.max(0, whole.samples.length - 1));
  const sample = whole.samples[place];
  const gives = tried.data?.samples.find((s) => s.id === sample?.id);
  const step = (by: number) => setAt(Math.max(0, Math.min(whole.samples.length - 1, place + by)));
  usePageKeys({ "[": () => step(-1), "]": () => step(1), c: () => may && open && !stops && !confirm.isPending && doConfirm() });
  const given = new Map(sample?.answers.map((a) => [a.field, a.value]));
  const fresh = whole.fields.filter((f) => f.fresh).length;
  return (
    <Box p={{ base: "3", md: "5" }} pt="4" pb="24">
      <PageHead
        title="Field map"
        beside={
          <>
            <Link to={`/sources/${whole.formId}`}>
              <u>{whole.form}</u>
            </Link>
            {" · "}
            {clientName}
          </>
        }
      >
        {may && whole.similar.length > 0 && <CopyFrom whole={whole} onCopy={(map) => setDraft(copied(draft, map))} />}
        <Locale draft={draft} whole={whole} may={may} onChange={setDraft} />
      </PageHead>
      <Where whole={whole} changed={changed} fresh={fresh} now={now} zone={zone} />
      {whole.confirmed && !changed && may && <ReprocessPanel whole={whole} />}
      <Samples whole={whole} place={place} now={now} zone={zone} onStep={step} gives={gives} />
      <Box role="list" aria-label="Fields of the form">
        {draft.rows.map((row, i) => {
          const field = whole.fields.find((f) => f.name === row.field);
          if (row.field !== "" && !field) return null;
          return (
            <MapRowLine
              key={row.field || `fixed ${row.to}`}
              draft={draft}
              at={i}
              row={row}
              field={field}
              whole={whole}
              given={given.get(row.field)}
              gives={gives?.rows[i]}
              may={may}
              client={whole.client}
              onChange={setDraft}
            />
          );
        })}
      </Box>
      {whole.fields.length === 0 && (
        <Box color="ink2" py="4">
          Nobody knows yet what this form asks. Send it once from its page: its fields stand here with the first submission.
        </Box>
      )}
      {may && whole.fields.length > 0 && <AddConstant whole={whole} onAdd={(to) => setDraft(withConstant(draft, to, "fixed"))} />}
      <Versions
        whole={whole}
        now={now}
        zone={zone}
        onLook={(v) =>
          setDraft({
            rows: [...v.map.rows.map(fromRow), ...draft.rows.filter((r) => !v.map.rows.some((x) => x.formField === r.field))],
            locale: v.map.locale ?? "",
          })
        }
      />
      {may && whole.fields.length > 0 && open && (
        <Box
          position="fixed"
          bottom={{ base: "52px", md: "0" }}
          left={{ base: "0", md: "148px" }}
          right="0"
          bg="card"
          borderTopWidth="2px"
          borderColor="cinder"
          px="5"
          py="10px"
          display="flex"
          gap="4"
          alignItems="center"
          flexWrap="wrap"
          zIndex="6"
        >
          <Button look="primary" disabled={confirm.isPending || stops !== null} onClick={doConfirm}>
            Confirm the map
          </Button>
          {changed && (
            <Button look="quiet" onClick={() => setDraft(first)}>
              Put back
            </Button>
          )}
          <Box fontSize="14px" color={stops ? "cinder" : "ink"} role={stops ? "alert" : undefined}>
            {stops ?? (odd[0] || releases(whole))}
          </Box>
        </Box>
      )}
      {confirm.error && <ErrorTold error={confirm.error} />}
    </Box>
  );
}

const releases = (whole: Schemas["MapDetail"]) =>
  whole.waiting > 0
    ? `${whole.waiting} ${whole.waiting === 1 ? "submission waits" : "submissions wait"} for it and ${whole.waiting === 1 ? "is" : "are"} acted on, in order.`
    : whole.confirmed
      ? "From the next submission on."
      : "Until then nothing of this form flows.";

type WhereProps = { whole: Schemas["MapDetail"]; changed: boolean; fresh: number; now: number; zone: string };

/** Whether it rules, unmistakably. */
function Where({ whole, changed, fresh, now, zone }: WhereProps) {
  const last = whole.versions[0];
  if (!whole.confirmed)
    return (
      <Box borderLeftWidth="6px" borderColor="cinder" bg="card" p="3" mb="4" role="alert">
        <State of="broken">not confirmed</State> <b>Nothing of this form flows.</b>{" "}
        {whole.waiting > 0 && `${whole.waiting} submissions wait. `}
        What stands below is suggested; look at it beside a real sample, and confirm.
      </Box>
    );
  if (changed)
    return (
      <Box borderLeftWidth="6px" borderColor="cinder" bg="card" p="3" mb="4" role="alert">
        <State of="broken">changed, not confirmed</State> Version {whole.version} still rules until you confirm.
      </Box>
    );
  return (
    <Box mb="3" fontSize="14px">
      <State of="whole">confirmed</State> version {whole.version}
      {last && `, ${last.confirmedBy ? `by ${last.confirmedBy} ` : ""}${dayAndClock(last.confirmedAt, now, zone)}`}
      {fresh > 0 && (
        <Box as="span" color="cinder">
          {" · "}
          {fresh} {fresh === 1 ? "field has" : "fields have"} come since; {fresh === 1 ? "it is" : "they are"} kept under{" "}
          {fresh === 1 ? "its" : "their"} own {fresh === 1 ? "name" : "names"}
        </Box>
      )}
    </Box>
  );
}
