import { Box, chakra } from "@chakra-ui/react";
import { Button } from "@/ui/Button";
import { Select } from "@/ui/Field";

type OrderedPartProps = {
  label: string;
  hint?: string | null;
  value: string;
  known: [string, string][];
  gone: string;
  out: string;
  onChange: (value: string) => void;
};

/** Some of a list, in an order: kept with commas between. */
export function OrderedPart({ label, hint, value, known, gone, out, onChange }: OrderedPartProps) {
  const chosen = value.split(",").filter(Boolean);
  const nameOf = (id: string) => known.find(([key]) => key === id)?.[1] ?? gone;
  const set = (to: string[]) => onChange(to.join(","));
  const up = (i: number) => {
    const to = [...chosen];
    to.splice(i - 1, 0, ...to.splice(i, 1));
    set(to);
  };
  return (
    <chakra.fieldset mb="3">
      <chakra.legend fontSize="13px" color="ink2" mb="1">
        {label}
      </chakra.legend>
      {chosen.length > 0 && (
        <chakra.ol m="0" mb="2" p="0" listStyleType="none">
          {chosen.map((id, i) => (
            <chakra.li key={id} display="flex" alignItems="center" gap="2" minH="32px">
              <Box as="span" fontFamily="mono" fontSize="12px" color="ink2">
                {i + 1}
              </Box>
              <Box flex="1" fontSize="14px">
                {nameOf(id)}
              </Box>
              {i > 0 && (
                <Button look="soft" size="small" aria-label={`${nameOf(id)}, earlier`} onClick={() => up(i)}>
                  earlier
                </Button>
              )}
              <Button look="soft" size="small" aria-label={`${nameOf(id)}: ${out}`} onClick={() => set(chosen.filter((c) => c !== id))}>
                {out}
              </Button>
            </chakra.li>
          ))}
        </chakra.ol>
      )}
      <Select
        aria-label={chosen.length === 0 ? `Choose for “${label}”` : `And, for “${label}”`}
        value=""
        onChange={(e) => e.target.value && set([...chosen, e.target.value])}
      >
        <option value="">{chosen.length === 0 ? "Choose …" : "and nothing more"}</option>
        {known
          .filter(([key]) => !chosen.includes(key))
          .map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
      </Select>
      {hint && (
        <Box fontSize="13px" color="ink2" mt="1">
          {hint}
        </Box>
      )}
    </chakra.fieldset>
  );
}
