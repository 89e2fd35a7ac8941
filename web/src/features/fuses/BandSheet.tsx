import { Box, chakra } from "@chakra-ui/react";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field, Input, Select } from "@/ui/Field";
import { withBand, withoutBand } from "./editing";
import type { SideProps } from "./RunSheetPage";
import { FaultsHere, SideSheet } from "./SideSheet";
import { type Band, opWords } from "./sheetLayout";

type Rule = Schemas["Rule"];
type Op = Schemas["RuleOp"];

/** A band's entry, as a sentence whose parts can be changed. */
export function BandSheet({ band, whole, definition, draft, mayEdit, close }: SideProps & { band: Band }) {
  const change = (next: Partial<Band>, typing?: string) =>
    draft.act({ type: "edit", to: withBand(definition, band.id, (b) => ({ ...b, ...next })), typing: typing && `${band.id}.${typing}` });
  const rules = band.entry.rules ?? { match: "all" as const, rules: [] };
  const setRules = (next: readonly Rule[], match = rules.match) => change({ entry: { kind: "when", rules: { match, rules: [...next] } } });
  const first = whole.around.fields.find((f) => f.choices.length > 0) ?? whole.around.fields[0];
  return (
    <SideSheet title={band.name || "A band"} close={close}>
      <FaultsHere faults={whole.faults.filter((f) => f.bandId === band.id && !f.stepId)} />
      <Box as="fieldset" border="0" {...(mayEdit ? {} : { disabled: true })}>
        <Field label="Name, as the story tells it">
          {(ids) => <Input {...ids} value={band.name} maxLength={80} onChange={(e) => change({ name: e.target.value }, "name")} />}
        </Field>
        <Field label="It is entered">
          {(ids) => (
            <Select
              {...ids}
              value={band.entry.kind}
              onChange={(e) => {
                const kind = e.target.value as Schemas["EntryKind"];
                change({ entry: kind === "when" ? { kind, rules } : { kind } });
              }}
            >
              <option value="always">always, whenever the fuse is lit</option>
              <option value="when">when rules hold</option>
              <option value="otherwise">otherwise, when no rules held</option>
            </Select>
          )}
        </Field>
        {band.entry.kind === "when" && (
          <Box mb="3">
            {rules.rules.length > 1 && (
              <Select
                aria-label="How the rules are joined"
                value={rules.match}
                mb="2"
                onChange={(e) => setRules(rules.rules, e.target.value as Schemas["RuleMatch"])}
              >
                <option value="all">when all of these hold</option>
                <option value="any">when any of these holds</option>
              </Select>
            )}
            {rules.rules.map((rule, i) => (
              <RuleEditor
                // biome-ignore lint/suspicious/noArrayIndexKey: rules have no other name
                key={i}
                rule={rule}
                fields={whole.around.fields}
                onChange={(next) => setRules(rules.rules.map((r, at) => (at === i ? next : r)))}
                onRemove={() => setRules(rules.rules.filter((_, at) => at !== i))}
              />
            ))}
            {first && (
              <Button look="soft" size="small" onClick={() => setRules([...rules.rules, { field: first.key, op: "one-of", values: [] }])}>
                {rules.rules.length === 0 ? "Add a rule" : "And another rule"}
              </Button>
            )}
          </Box>
        )}
      </Box>
      {mayEdit && definition.bands.length > 1 && (
        <Button
          look="soft"
          size="small"
          onClick={() => {
            draft.act({ type: "edit", to: withoutBand(definition, band.id) });
            close();
          }}
        >
          Take the band out
        </Button>
      )}
    </SideSheet>
  );
}

type RuleEditorProps = { rule: Rule; fields: readonly Schemas["AroundField"][]; onChange: (rule: Rule) => void; onRemove: () => void };

function RuleEditor({ rule, fields, onChange, onRemove }: RuleEditorProps) {
  const field = fields.find((f) => f.key === rule.field);
  const needsValue = rule.op !== "filled" && rule.op !== "empty";
  const picks = needsValue && (rule.op === "one-of" || rule.op === "not-one-of") && (field?.choices.length ?? 0) > 0;
  const toggle = (choice: string, on: boolean) =>
    onChange({
      ...rule,
      values: on ? (field?.choices.filter((c) => c === choice || rule.values.includes(c)) ?? []) : rule.values.filter((v) => v !== choice),
    });
  return (
    <Box borderLeftWidth="3px" borderColor="sulphur" pl="3" mb="3">
      <Box display="flex" gap="2" mb="2">
        <Select aria-label="Field" value={rule.field} onChange={(e) => onChange({ ...rule, field: e.target.value, values: [] })}>
          {!field && <option value={rule.field}>{rule.field || "Choose …"}</option>}
          {fields.map((f) => (
            <option key={f.key} value={f.key}>
              {f.label.toLowerCase()}
            </option>
          ))}
        </Select>
        <Select aria-label="Comparison" value={rule.op} onChange={(e) => onChange({ ...rule, op: e.target.value as Op })}>
          {(Object.keys(opWords) as Op[]).map((op) => (
            <option key={op} value={op}>
              {opWords[op]}
            </option>
          ))}
        </Select>
      </Box>
      {picks && (
        <Box role="group" aria-label="Values" display="flex" flexWrap="wrap" gap="3" mb="2">
          {field?.choices.map((choice) => (
            <chakra.label key={choice} display="flex" gap="1.5" alignItems="center" fontSize="14px">
              <chakra.input
                type="checkbox"
                checked={rule.values.includes(choice)}
                onChange={(e) => toggle(choice, e.target.checked)}
                css={{ accentColor: "var(--chakra-colors-ink)" }}
              />
              {choice}
            </chakra.label>
          ))}
        </Box>
      )}
      {needsValue && !picks && (
        <Input
          aria-label="Values, with commas between them"
          mb="2"
          defaultValue={rule.values.join(", ")}
          onChange={(e) =>
            onChange({
              ...rule,
              values: e.target.value
                .split(",")
                .map((v) => v.trim())
                .filter(Boolean),
            })
          }
        />
      )}
      <Button look="quiet" fontSize="13px" fontWeight={400} onClick={onRemove}>
        Take this rule out
      </Button>
    </Box>
  );
}
