import { Box, chakra } from "@chakra-ui/react";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field, Input, Select } from "@/ui/Field";
import { ListArea } from "@/ui/ListInput";
import { SectionHead } from "@/ui/Page";
import { addable, type Design, type DesignField, faultsAt, moved, nameFor, renamed, withField } from "./design";

type PartProps = { design: Design; change: (next: Design) => void; faults: readonly Schemas["DesignFault"][] };

const typeWords: Record<DesignField["type"], string> = {
  text: "text",
  email: "email address",
  phone: "telephone number",
  choice: "one of the choices",
  choices: "several of the choices",
  "long-text": "long text",
  number: "a number",
  date: "a date",
  "yes-no": "yes or no",
  hidden: "hidden",
};

/** What the form asks, in order. */
export function FieldsPart({ design, change, faults, tracked }: PartProps & { tracked: readonly string[] }) {
  const add = (label: string) => {
    const made = addable.find((a) => a.label === label);
    if (!made) return;
    const name = nameFor(
      made.field.label,
      made.field.means,
      design.fields.map((f) => f.name),
    );
    change({
      ...design,
      fields: [
        ...design.fields,
        { ...made.field, name, hidden: made.field.type === "hidden" ? { fixed: null, tracked: "utm_source" } : null },
      ],
    });
  };
  return (
    <Box mb="6" id="fields">
      <SectionHead>What it asks: {design.fields.filter((f) => f.type !== "hidden").length}</SectionHead>
      {faults
        .filter((f) => f.place === "fields")
        .map((f) => (
          <Box key={f.what} color="cinder" fontSize="14px" mb="2">
            {f.what}
          </Box>
        ))}
      <Box as="ol" listStyleType="none">
        {design.fields.map((field, i) => (
          <OneField
            // biome-ignore lint/suspicious/noArrayIndexKey: a field is its place: its name changes while it is typed
            key={i}
            field={field}
            at={i}
            design={design}
            change={change}
            faults={faultsAt(faults, `fields.${i}`)}
            tracked={tracked}
          />
        ))}
      </Box>
      <Select aria-label="Add a field" value="" mt="2" maxW="320px" onChange={(e) => add(e.target.value)}>
        <option value="">Add a field …</option>
        {addable
          .filter((a) => a.field.means === null || !design.fields.some((f) => f.means === a.field.means))
          .map((a) => (
            <option key={a.label}>{a.label}</option>
          ))}
      </Select>
    </Box>
  );
}

type OneProps = PartProps & { field: DesignField; at: number; tracked: readonly string[] };

function OneField({ field, at, design, change, faults, tracked }: OneProps) {
  const set = (to: Partial<DesignField>) => change(withField(design, at, to));
  const called = field.label || `field ${at + 1}`;
  const fault = (part: string) => faults.find((f) => f.place === `fields.${at}.${part}`)?.what ?? null;
  return (
    <Box
      as="li"
      id={`fields-${at}`}
      borderBottomWidth="1px"
      borderColor="line2"
      py="2"
      display="grid"
      gridTemplateColumns="minmax(0, 1fr) auto"
      gap="3"
    >
      <Box minW="0" id={`fields-${at}-label`}>
        <Input
          aria-label={`Words of field ${at + 1}`}
          aria-invalid={fault("label") ? true : undefined}
          value={field.label}
          placeholder="What do you ask?"
          onChange={(e) => change(renamed(design, at, e.target.value))}
        />
        <Box display="flex" gap="4" alignItems="center" flexWrap="wrap" fontSize="13px" color="ink2" mt="1">
          <span>{typeWords[field.type]}</span>
          <Box as="span" fontFamily="mono" fontSize="12px" id={`fields-${at}-name`}>
            {field.name}
          </Box>
          {field.type !== "hidden" && field.type !== "choices" && (
            <chakra.label display="flex" gap="1" alignItems="center" minH="24px">
              <input type="checkbox" checked={field.required} onChange={(e) => set({ required: e.target.checked })} /> must be answered
            </chakra.label>
          )}
        </Box>
        {(field.type === "choice" || field.type === "choices") && (
          <Box mt="2" id={`fields-${at}-choices`}>
            <Field label="Choices, one a line" error={fault("choices")}>
              {(ids) => (
                <ListArea
                  {...ids}
                  rows={Math.max(2, field.choices.length + 1)}
                  values={field.choices}
                  onChange={(choices) => set({ choices })}
                />
              )}
            </Field>
          </Box>
        )}
        {field.type === "hidden" && <Hidden field={field} set={set} tracked={tracked} error={fault("hidden")} at={at} />}
        {faults
          .filter((f) => /\.(label|name)$/.test(f.place))
          .map((f) => (
            <Box key={f.what} fontSize="13px" color="cinder">
              {f.what} {f.mend}
            </Box>
          ))}
      </Box>
      <Box display="flex" gap="1" alignItems="flex-start">
        <Button size="small" look="soft" aria-label={`Move ${called} up`} disabled={at === 0} onClick={() => change(moved(design, at, -1))}>
          ↑
        </Button>
        <Button
          size="small"
          look="soft"
          aria-label={`Move ${called} down`}
          disabled={at === design.fields.length - 1}
          onClick={() => change(moved(design, at, 1))}
        >
          ↓
        </Button>
        <Button
          size="small"
          look="soft"
          aria-label={`Take ${called} out`}
          onClick={() => change({ ...design, fields: design.fields.filter((_, i) => i !== at) })}
        >
          Out
        </Button>
      </Box>
    </Box>
  );
}

function Hidden({
  field,
  set,
  tracked,
  error,
  at,
}: {
  field: DesignField;
  set: (to: Partial<DesignField>) => void;
  tracked: readonly string[];
  error: string | null;
  at: number;
}) {
  return (
    <Box display="flex" gap="3" mt="2" flexWrap="wrap" id={`fields-${at}-hidden`}>
      <Field label="carries" error={error}>
        {(ids) => (
          <Select
            {...ids}
            value={field.hidden?.tracked ?? ""}
            onChange={(e) => set({ hidden: e.target.value ? { fixed: null, tracked: e.target.value } : { fixed: "", tracked: null } })}
          >
            {tracked.map((t) => (
              <option key={t} value={t}>
                {t}, from the page's address
              </option>
            ))}
            <option value="">a fixed value</option>
          </Select>
        )}
      </Field>
      {!field.hidden?.tracked && (
        <Field label="the value">
          {(ids) => (
            <Input {...ids} value={field.hidden?.fixed ?? ""} onChange={(e) => set({ hidden: { fixed: e.target.value, tracked: null } })} />
          )}
        </Field>
      )}
    </Box>
  );
}
