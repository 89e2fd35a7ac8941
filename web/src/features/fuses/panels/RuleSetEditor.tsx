import { Box, chakra } from "@chakra-ui/react";
import { useId } from "react";
import type { Schemas } from "@/api/client";
import { allOps, needsValues, opWords, takes } from "@/api/words";
import { type Around, factsOf } from "@/features/fuses/model/sheetLayout";
import { Button } from "@/ui/Button";
import { Select } from "@/ui/Field";
import { ListInput } from "@/ui/ListInput";

type RuleSet = Schemas["RuleSet"];
type Rule = Schemas["Rule"];
type Op = Schemas["RuleOp"];
type Fact = Schemas["ContextField"];

type Props = { rules: RuleSet; around: Around; onChange: (rules: RuleSet) => void; depth?: number };

/** Rules, each a sentence of field, comparison and values; groups of them one deeper. */
export function RuleSetEditor({ rules, around, onChange, depth = 0 }: Props) {
  const facts = factsOf(around);
  const groups = rules.groups ?? [];
  const first = facts.find((f) => f.choices.length > 0) ?? facts[0];
  const fresh = (): Rule[] => (first ? [{ field: first.key, op: first.ops[0] ?? "one-of", values: [] }] : []);
  const setGroups = (next: RuleSet[]) => onChange({ ...rules, groups: next.length > 0 ? next : null });
  return (
    <Box mb="3">
      {rules.rules.length + groups.length > 1 && (
        <Select
          aria-label="How the rules are joined"
          value={rules.match}
          mb="2"
          onChange={(e) => onChange({ ...rules, match: e.target.value as Schemas["RuleMatch"] })}
        >
          <option value="all">all of these hold</option>
          <option value="any">any of these holds</option>
        </Select>
      )}
      {rules.rules.map((rule, i) => (
        <RuleEditor
          // biome-ignore lint/suspicious/noArrayIndexKey: rules have no other name
          key={i}
          rule={rule}
          facts={facts}
          fields={around.fields.length}
          onChange={(next) => onChange({ ...rules, rules: rules.rules.map((r, at) => (at === i ? next : r)) })}
          onRemove={() => onChange({ ...rules, rules: rules.rules.filter((_, at) => at !== i) })}
        />
      ))}
      {groups.map((group, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: groups have no other name
        <Box key={i} borderWidth="1px" borderColor="line" borderRadius="sm" p="2" mb="3" role="group" aria-label="A group of rules">
          <RuleSetEditor
            rules={group}
            around={around}
            depth={depth + 1}
            onChange={(next) => setGroups(groups.map((g, at) => (at === i ? next : g)))}
          />
          <Button look="quiet" fontSize="13px" fontWeight={400} onClick={() => setGroups(groups.filter((_, at) => at !== i))}>
            Take this group out
          </Button>
        </Box>
      ))}
      <Box display="flex" gap="2" flexWrap="wrap">
        <Button look="soft" size="small" onClick={() => onChange({ ...rules, rules: [...rules.rules, ...fresh()] })}>
          {rules.rules.length === 0 ? "Add a rule" : "And another rule"}
        </Button>
        {depth === 0 && (
          <Button look="soft" size="small" onClick={() => setGroups([...groups, { match: "any", rules: fresh() }])}>
            Add a group
          </Button>
        )}
      </Box>
    </Box>
  );
}

type RuleEditorProps = { rule: Rule; facts: readonly Fact[]; fields: number; onChange: (rule: Rule) => void; onRemove: () => void };

function RuleEditor({ rule, facts, fields, onChange, onRemove }: RuleEditorProps) {
  const fact = facts.find((f) => f.key === rule.field);
  const ops: readonly Op[] = fact?.ops ?? allOps;
  const pick = (key: string) => {
    const next = facts.find((f) => f.key === key);
    onChange({ field: key, op: next?.ops.includes(rule.op) ? rule.op : (next?.ops[0] ?? "one-of"), values: [] });
  };
  const option = (f: Fact) => (
    <option key={f.key} value={f.key}>
      {f.label.toLowerCase()}
    </option>
  );
  return (
    <Box borderLeftWidth="3px" borderColor="sulphur" pl="3" mb="3">
      <Select aria-label="Field" value={rule.field} mb="2" onChange={(e) => pick(e.target.value)}>
        {!fact && <option value={rule.field}>{rule.field || "Choose …"}</option>}
        <optgroup label="Lead fields">{facts.slice(0, fields).map(option)}</optgroup>
        <optgroup label="History, calendar, reply">{facts.slice(fields).map(option)}</optgroup>
      </Select>
      <Select aria-label="Comparison" value={rule.op} mb="2" onChange={(e) => onChange({ ...rule, op: e.target.value as Op })}>
        {!ops.includes(rule.op) && <option value={rule.op}>{opWords(rule.op)}</option>}
        {ops.map((op) => (
          <option key={op} value={op}>
            {opWords(op)}
          </option>
        ))}
      </Select>
      {needsValues(rule.op) && <Values rule={rule} fact={fact} onChange={onChange} />}
      <Button look="quiet" fontSize="13px" fontWeight={400} onClick={onRemove}>
        Take this rule out
      </Button>
    </Box>
  );
}

function Values({ rule, fact, onChange }: { rule: Rule; fact: Fact | undefined; onChange: (rule: Rule) => void }) {
  const choices = fact?.choices ?? [];
  if (["one-of", "not-one-of", "has-all"].includes(rule.op) && choices.length > 0) {
    const toggle = (choice: string, on: boolean) =>
      onChange({
        ...rule,
        values: on ? choices.filter((c) => c === choice || rule.values.includes(c)) : rule.values.filter((v) => v !== choice),
      });
    return (
      <Box role="group" aria-label="Values" display="flex" flexWrap="wrap" columnGap="3" mb="2">
        {choices.map((choice) => (
          <Check key={choice} on={rule.values.includes(choice)} label={choice} onChange={(on) => toggle(choice, on)} />
        ))}
      </Box>
    );
  }
  const [one, hint] = ["before", "after"].includes(rule.op)
    ? [true, "2026-11-25, or today"]
    : takes(rule.op) === "one"
      ? [true, "a number"]
      : [false, rule.op === "between" ? "5, 10" : ""];
  return (
    <ListInput
      aria-label={one ? "Value" : "Values, with commas between them"}
      placeholder={hint || undefined}
      mb="2"
      values={rule.values}
      between={one ? undefined : ","}
      onChange={(values) => onChange({ ...rule, values })}
    />
  );
}

/** A box to tick, with its words. */
export const Check = ({
  on,
  label,
  beside,
  onChange,
}: {
  on: boolean;
  label: string;
  beside?: string;
  onChange: (on: boolean) => void;
}) => (
  <chakra.label display="flex" gap="2" alignItems="baseline" py="1" fontSize="14px">
    <chakra.input
      type="checkbox"
      checked={on}
      onChange={(e) => onChange(e.target.checked)}
      css={{ accentColor: "var(--chakra-colors-ink)" }}
    />
    <span>
      {label}{" "}
      {beside && (
        <Box as="span" color="ink2" fontSize="13px">
          {beside}
        </Box>
      )}
    </span>
  </chakra.label>
);

/** A rule set that may be absent: `Only when …` opens it. */
export function MaybeRules({
  label,
  rules,
  around,
  onChange,
}: {
  label: string;
  rules: RuleSet | null | undefined;
  around: Around;
  onChange: (rules: RuleSet | null) => void;
}) {
  const id = useId();
  return (
    <Box role="group" aria-labelledby={id} mb="3">
      <Box id={id} fontSize="13px" color="ink2" mb="1">
        {label}
      </Box>
      <RuleSetEditor
        rules={rules ?? { match: "all", rules: [] }}
        around={around}
        onChange={(next) => onChange(next.rules.length + (next.groups?.length ?? 0) > 0 ? next : null)}
      />
    </Box>
  );
}
