import { Box } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "@/api/client";
import { withSettings } from "@/features/fuses/model/editing";
import type { Step } from "@/features/fuses/model/sheetLayout";
import { Button } from "@/ui/Button";
import { Field, Input, TextArea } from "@/ui/Field";

type Setting = Schemas["StepSetting"];
type Props = { setting: Setting; step: Step; onChange: (settings: Record<string, string>, typing?: string) => void };

/** What stands under names of one's own in a setting: `[name, words]`, in the order in which they were made. */
export const pairsOf = (setting: string, settings: Readonly<Record<string, string>>): [string, string][] =>
  Object.entries(settings)
    .filter(([key]) => key.startsWith(`${setting}.`))
    .map(([key, value]) => [key.slice(setting.length + 1), value]);

/** True when a setting counts for a step that is set so. */
export const counts = (setting: Setting, settings: Readonly<Record<string, string>>) =>
  !setting.onlyIf || settings[setting.onlyIf.setting] === setting.onlyIf.value;

/** Words under names of one's own: columns of a file, parts of an address, values to take from an answer. */
export function Pairs({ setting, step, onChange }: Props) {
  const [name, setName] = useState("");
  const pairs = pairsOf(setting.key, step.settings);
  const trimmed = name.trim();
  const taken = pairs.some(([n]) => n === trimmed);
  const without = (gone: string) => {
    const { [`${setting.key}.${gone}`]: _, ...rest } = step.settings;
    onChange(rest);
  };
  const add = () => {
    if (!trimmed || taken) return;
    onChange({ ...step.settings, [`${setting.key}.${trimmed}`]: "" });
    setName("");
  };
  return (
    <Box as="fieldset" border="0" mb="3">
      <Box as="legend" fontSize="13px" color="ink2" mb="1">
        {setting.label}
      </Box>
      {setting.hint && (
        <Box fontSize="13px" color="ink2" mb="1">
          {setting.hint}
        </Box>
      )}
      {pairs.map(([n, words]) => (
        <Box key={n} borderLeftWidth="2px" borderColor={words ? "verdigris" : "line"} pl="2" mb="1">
          <Field
            label={n}
            aside={
              <Button look="quiet" fontSize="12px" fontWeight={400} onClick={() => without(n)} aria-label={`Take out ${n}`}>
                take out
              </Button>
            }
          >
            {(ids) => (
              <Input
                {...ids}
                fontFamily="mono"
                fontSize="13px"
                value={words}
                onChange={(e) => onChange({ ...step.settings, [`${setting.key}.${n}`]: e.target.value }, `${setting.key}.${n}`)}
              />
            )}
          </Field>
        </Box>
      ))}
      <Box display="flex" gap="2" alignItems="flex-end">
        <Input
          aria-label={`Another name for ${setting.label.toLowerCase()}`}
          placeholder="a name of your own"
          minH="32px"
          value={name}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => {
            if (e.key !== "Enter") return;
            e.preventDefault();
            add();
          }}
        />
        <Button size="small" look="soft" disabled={!trimmed || taken} onClick={add}>
          Add
        </Button>
      </Box>
    </Box>
  );
}

/** Where JSON that is typed goes wrong, in the browser's words; nothing while it is well. */
export function jsonFault(text: string): string | null {
  if (!text.trim()) return null;
  try {
    JSON.parse(text);
    return null;
  } catch (e) {
    return `It is not JSON yet: ${(e as Error).message}`;
  }
}

/** JSON with words in its strings. Whatever stands in a field, it stays JSON. */
export function JsonBody({ setting, step, onChange }: Props) {
  const value = step.settings[setting.key] ?? "";
  return (
    <Field
      label={setting.label}
      hint={setting.hint ?? undefined}
      error={jsonFault(value)}
      aside={
        !value && setting.default ? (
          <Button
            look="quiet"
            fontSize="12px"
            fontWeight={400}
            onClick={() => onChange(withSettings(step, setting.key, JSON.stringify(JSON.parse(setting.default ?? "{}"), null, 2)))}
          >
            write my own
          </Button>
        ) : undefined
      }
    >
      {(ids) => (
        <TextArea
          {...ids}
          rows={value ? Math.min(14, value.split("\n").length + 1) : 3}
          fontFamily="mono"
          fontSize="12px"
          spellCheck={false}
          placeholder={setting.default ?? ""}
          value={value}
          onChange={(e) => onChange(withSettings(step, setting.key, e.target.value), setting.key)}
        />
      )}
    </Field>
  );
}
