import { Box } from "@chakra-ui/react";
import { Field, Input, Select } from "@/ui/Field";

const units = { s: 1, min: 60, h: 3600, days: 86_400 } as const;
type Unit = keyof typeof units;

/** A length of time: a number and a unit. */
export function SpanInput({ label, seconds, onChange }: { label: string; seconds: number; onChange: (seconds: number) => void }) {
  const unit: Unit = (["days", "h", "min"] as const).find((u) => seconds > 0 && seconds % units[u] === 0) ?? "s";
  return (
    <Field label={label}>
      {(ids) => (
        <Box display="flex" gap="2">
          <Input
            {...ids}
            type="number"
            min={0}
            value={Math.round(seconds / units[unit])}
            onChange={(e) => onChange(Math.max(0, Math.round(Number(e.target.value))) * units[unit])}
          />
          <Select
            aria-label="Unit"
            value={unit}
            onChange={(e) => onChange(Math.round(seconds / units[unit]) * units[e.target.value as Unit])}
          >
            <option value="s">seconds</option>
            <option value="min">minutes</option>
            <option value="h">hours</option>
            <option value="days">days</option>
          </Select>
        </Box>
      )}
    </Field>
  );
}
