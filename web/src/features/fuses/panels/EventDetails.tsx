import { Box } from "@chakra-ui/react";
import type { Schemas } from "@/api/client";
import type { Around, Definition, Only } from "@/features/fuses/model/sheetLayout";
import { Field } from "@/ui/Field";
import { ListInput } from "@/ui/ListInput";
import { Check } from "./RuleSetEditor";

type Props = { event: string; only: Only; around: Around; definition: Definition; onChange: (only: Only) => void };

/** By which details of an event a fuse picks: forms, tags, stages, what a reply means. Nothing ticked means any. */
export function EventDetails({ event, only, around, definition, onChange }: Props) {
  const kind = around.events.find((e) => e.key === event);
  if (!kind || kind.details.length === 0) return null;
  const set = (detail: string, values: string[]) => {
    const next = { ...only, [detail]: values };
    if (values.length === 0 && detail !== "form") delete next[detail];
    onChange(next);
  };
  return (
    <>
      {kind.details.map((detail) => (
        <Detail
          key={detail.key}
          detail={detail}
          values={only[detail.key] ?? []}
          known={knownOf(detail, around, definition)}
          onChange={(values) => set(detail.key, values)}
        />
      ))}
    </>
  );
}

function Detail({
  detail,
  values,
  known,
  onChange,
}: {
  detail: Schemas["EventDetail"];
  values: readonly string[];
  known: readonly [string, string, string?][] | null;
  onChange: (values: string[]) => void;
}) {
  if (!known) {
    return (
      <Field label={`${detail.label} (any where it is left empty; commas between several)`}>
        {(ids) => <ListInput {...ids} values={values} between="," onChange={onChange} />}
      </Field>
    );
  }
  const gone = values.filter((v) => !known.some(([key]) => key === v)).map((v): [string, string, string?] => [v, v, "gone"]);
  return (
    <Box role="group" aria-label={detail.label} mb="3">
      <Box fontSize="13px" color="ink2">
        {detail.label}
      </Box>
      {[...known, ...gone].map(([key, label, beside]) => (
        <Check
          key={key}
          on={values.includes(key)}
          label={label}
          beside={beside}
          onChange={(on) => onChange(on ? [...values, key] : values.filter((v) => v !== key))}
        />
      ))}
    </Box>
  );
}

// What there is to choose from; `null` where anything may be typed.
function knownOf(detail: Schemas["EventDetail"], around: Around, definition: Definition): [string, string, string?][] | null {
  const same = (values: readonly string[]): [string, string, string?][] => values.map((v) => [v, v]);
  switch (detail.key) {
    case "form":
      return around.forms.map((f) => [f.key, f.name, f.source]);
    case "source":
      return same(around.sources);
    case "stage":
      return same(around.stages);
    case "field":
      return around.fields.map((f) => [f.key, f.label.toLowerCase()]);
    case "choice": {
      const offered = definition.bands.flatMap((b) => b.steps).flatMap((s) => s.choices ?? []);
      return offered.length > 0 ? same([...new Set(offered)]) : [];
    }
    case "step":
      return definition.bands.flatMap((b) => b.steps).map((s) => [s.id, s.name]);
    default:
      return detail.values ? same(detail.values) : null;
  }
}
