import { Box, chakra } from "@chakra-ui/react";
import { Button } from "@/ui/Button";
import { Field, Select } from "@/ui/Field";
import type { Around } from "./sheetLayout";

type ColleaguesPartProps = { label: string; value: string; around: Around; onChange: (value: string) => void };

/** Some of the people, in an order. */
export function ColleaguesPart({ label, value, around, onChange }: ColleaguesPartProps) {
  const chosen = value.split(",").filter(Boolean);
  const known: [string, string][] = [
    ["owner", "whoever answers for them"],
    ["team", "everybody who reaches out, by name"],
    ...around.colleagues.map((c): [string, string] => [c.id, c.name]),
  ];
  const nameOf = (id: string) => known.find(([key]) => key === id)?.[1] ?? "somebody who is not here any more";
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
              <Button look="soft" size="small" aria-label={`Not ${nameOf(id)}`} onClick={() => set(chosen.filter((c) => c !== id))}>
                not them
              </Button>
            </chakra.li>
          ))}
        </chakra.ol>
      )}
      <Field label={chosen.length === 0 ? "Choose whom" : "And"}>
        {(ids) => (
          <Select {...ids} value="" onChange={(e) => e.target.value && set([...chosen, e.target.value])}>
            <option value="">{chosen.length === 0 ? "Choose …" : "nobody else"}</option>
            {known
              .filter(([key]) => !chosen.includes(key))
              .map(([key, name]) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
          </Select>
        )}
      </Field>
    </chakra.fieldset>
  );
}
