import { Box, chakra } from "@chakra-ui/react";
import type { Schemas } from "@/api/client";
import { Field, Input, Select } from "@/ui/Field";
import type { SideProps } from "./RunSheetPage";
import { FaultsHere, SideSheet } from "./SideSheet";

const stops: [Schemas["StopRule"], string][] = [
  ["touched", "somebody of the team reaches out"],
  ["replied", "they reply"],
  ["opted-out", "they opt out of texts"],
];

/** What lights the fuse, what a second lighting does, and what stops it. */
export function LitBySheet({ whole, definition, draft, mayEdit, close }: SideProps) {
  const change = (next: Partial<Schemas["FuseDefinition"]>, typing?: string) =>
    draft.act({ type: "edit", to: { ...definition, ...next }, typing });
  const forms = definition.litBy.flatMap((l) => l.forms);
  const stopOn = definition.stopOn ?? [];
  const gone = forms.filter((key) => !whole.around.forms.some((f) => f.key === key));
  return (
    <SideSheet title="Lit by, relit, stopped" close={close}>
      <FaultsHere faults={whole.faults.filter((f) => !f.bandId && !f.stepId)} />
      <Box as="fieldset" border="0" {...(mayEdit ? {} : { disabled: true })}>
        <Group name="Lit by a submission on">
          {[...whole.around.forms, ...gone.map((key) => ({ key, name: `${key} (gone)`, source: "" }))].map((f) => (
            <Check
              key={f.key}
              on={forms.includes(f.key)}
              label={f.name}
              beside={f.source}
              onChange={(on) =>
                change({ litBy: [{ event: "submission", forms: on ? [...forms, f.key] : forms.filter((k) => k !== f.key) }] })
              }
            />
          ))}
        </Group>
        <Field label="When the same person asks again, it burns">
          {(ids) => (
            <Select
              {...ids}
              value={definition.relight ?? "when-last-ended"}
              onChange={(e) => change({ relight: e.target.value as Schemas["Relight"] })}
            >
              <option value="when-last-ended">only when the last has ended</option>
              <option value="always">each time</option>
              <option value="once">never again: once for a lead</option>
            </Select>
          )}
        </Field>
        <Group name="It stops when">
          {stops.map(([rule, label]) => (
            <Check
              key={rule}
              on={stopOn.includes(rule)}
              label={label}
              onChange={(on) => change({ stopOn: stops.map(([r]) => r).filter((r) => (r === rule ? on : stopOn.includes(r))) })}
            />
          ))}
        </Group>
        <Field
          label="It speaks to the lead at most so many hours late"
          hint="Later than that, texts are struck out and the story says why."
        >
          {(ids) => (
            <Input
              {...ids}
              type="number"
              min={1}
              max={720}
              value={definition.ageLimitHours ?? 24}
              onChange={(e) => change({ ageLimitHours: Math.round(Number(e.target.value)) }, "age")}
            />
          )}
        </Field>
      </Box>
    </SideSheet>
  );
}

const Group = ({ name, children }: { name: string; children: React.ReactNode }) => (
  <Box role="group" aria-label={name} mb="4">
    <Box fontSize="13px" color="ink2" mb="1">
      {name}
    </Box>
    {children}
  </Box>
);

const Check = ({ on, label, beside, onChange }: { on: boolean; label: string; beside?: string; onChange: (on: boolean) => void }) => (
  <chakra.label display="flex" gap="2" alignItems="baseline" py="1">
    <chakra.input
      type="checkbox"
      checked={on}
      onChange={(e) => onChange(e.target.checked)}
      css={{ accentColor: "var(--chakra-colors-ink)" }}
    />
    <span>
      {label}{" "}
      <Box as="span" color="ink2" fontSize="13px">
        {beside}
      </Box>
    </span>
  </chakra.label>
);
