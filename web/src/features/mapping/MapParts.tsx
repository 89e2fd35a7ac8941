import { Box } from "@chakra-ui/react";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { ErrorTold } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import type { Draft } from "./draft";
import { Small } from "./Small";

type SamplesProps = {
  whole: Schemas["MapDetail"];
  place: number;
  now: number;
  zone: string;
  onStep: (by: number) => void;
  gives: Schemas["TriedSample"] | undefined;
};

export function Samples({ whole, place, now, zone, onStep, gives }: SamplesProps) {
  const sample = whole.samples[place];
  return (
    <Box
      display={{ base: "block", md: "grid" }}
      gridTemplateColumns="minmax(0, 0.85fr) 22px minmax(190px, 1.3fr) minmax(0, 0.95fr)"
      columnGap="3"
      alignItems="end"
      borderBottomWidth="1px"
      pb="1"
      fontSize="13px"
      color="ink2"
    >
      <Box display={{ base: "none", md: "block" }}>the form asks</Box>
      <Box display={{ base: "none", md: "block" }} />
      <Box display={{ base: "none", md: "block" }}>goes to</Box>
      <Box>
        {sample ? (
          <Box display="flex" alignItems="center" gap="2" flexWrap="wrap" color="ink">
            <Button size="small" look="soft" minH="26px" aria-label="The sample before" disabled={place === 0} onClick={() => onStep(-1)}>
              ←
            </Button>
            <Box as="span" fontSize="13px" color="ink2">
              gives, for
            </Box>
            <Box as="span" fontFamily="mono" fontSize="12px" aria-live="polite">
              sample {place + 1} of {whole.samples.length}, {dayAndClock(sample.receivedAt, now, zone)}
              {sample.test ? ", test" : ""}
            </Box>
            <Button
              size="small"
              look="soft"
              minH="26px"
              aria-label="The next sample"
              disabled={place >= whole.samples.length - 1}
              onClick={() => onStep(1)}
            >
              →
            </Button>
            {gives && !gives.reachable && <Box color="cinder">nobody could be recognised</Box>}
          </Box>
        ) : (
          "no sample yet: send it once, or a test lead"
        )}
      </Box>
    </Box>
  );
}

export function CopyFrom({ whole, onCopy }: { whole: Schemas["MapDetail"]; onCopy: (map: Schemas["FieldMap"]) => void }) {
  const copy = useAct((otherId: string) =>
    unwrap(api.GET("/api/forms/{formId}/map/from/{otherId}", { params: { path: { formId: whole.formId, otherId } } })),
  );
  return (
    <Box fontSize="14px">
      <Small
        aria-label="Copy the map of a similar form"
        value=""
        onChange={(e) => e.target.value && copy.mutate(e.target.value, { onSuccess: onCopy })}
      >
        <option value="">copy from a similar form…</option>
        {whole.similar.map((s) => (
          <option key={s.id} value={s.id}>
            {s.name}, {s.source}: {s.shared} fields in common
          </option>
        ))}
      </Small>
      {copy.error && <ErrorTold error={copy.error} />}
    </Box>
  );
}

const locales: [string, string][] = [
  ["en-GB", "31/12/2026, 1,234.5"],
  ["en-US", "12/31/2026, 1,234.5"],
  ["de-DE", "31.12.2026, 1.234,5"],
  ["fr-FR", "31/12/2026, 1 234,5"],
  ["sv-SE", "2026-12-31, 1 234,5"],
  ["ja-JP", "2026/12/31, 1,234.5"],
];

type LocaleProps = { draft: Draft; whole: Schemas["MapDetail"]; may: boolean; onChange: (draft: Draft) => void };

export function Locale({ draft, whole, may, onChange }: LocaleProps) {
  return (
    <Box fontSize="14px">
      <Small
        aria-label="How dates and numbers are written in this form"
        value={draft.locale}
        disabled={!may}
        onChange={(e) => onChange({ ...draft, locale: e.target.value })}
      >
        <option value="">dates and numbers as in {whole.country}</option>
        {locales.map(([tag, example]) => (
          <option key={tag} value={tag}>
            {tag}: {example}
          </option>
        ))}
        {draft.locale && !locales.some(([t]) => t === draft.locale) && <option value={draft.locale}>{draft.locale}</option>}
      </Small>
    </Box>
  );
}

export function AddConstant({ whole, onAdd }: { whole: Schemas["MapDetail"]; onAdd: (to: string) => void }) {
  return (
    <Box mt="3" fontSize="14px">
      <Small aria-label="Add a fixed value" value="" onChange={(e) => e.target.value && onAdd(e.target.value)}>
        <option value="">add a fixed value to…</option>
        {whole.leadFields.map((f) => (
          <option key={f.key} value={f.key}>
            {f.label}
          </option>
        ))}
      </Small>
    </Box>
  );
}

type VersionsProps = { whole: Schemas["MapDetail"]; now: number; zone: string; onLook: (v: Schemas["MapVersionLine"]) => void };

export function Versions({ whole, now, zone, onLook }: VersionsProps) {
  if (whole.versions.length < 2) return null;
  return (
    <Box mt="6" fontSize="14px">
      <b>Versions</b>
      {whole.versions.map((v) => (
        <Box key={v.version} display="flex" gap="3" minH="30px" alignItems="center">
          <Box fontFamily="mono" fontSize="13px" width="28px">
            {v.version}
          </Box>
          <Box>
            {v.confirmedBy ?? "made with the form"}, {dayAndClock(v.confirmedAt, now, zone)}
          </Box>
          {v.version !== whole.version && (
            <Button look="quiet" fontSize="13px" onClick={() => onLook(v)}>
              Take it up again
            </Button>
          )}
        </Box>
      ))}
    </Box>
  );
}
