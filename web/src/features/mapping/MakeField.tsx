import { Box, chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Input, Select, TextArea } from "@/ui/Field";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

export const fieldTypes: [Schemas["LeadFieldType"], string][] = [
  ["text", "text"],
  ["long-text", "long text"],
  ["number", "number"],
  ["money", "money"],
  ["choice", "choice"],
  ["choices", "several choices"],
  ["date", "date"],
  ["yes-no", "yes or no"],
  ["link", "link"],
];

type Props = { client: string; label: string; choices: readonly string[]; onMade: (key: string) => void; onClose: () => void };

/** A field of the client's own, made where it is missed. */
export function MakeField({ client, label, choices, onMade, onClose }: Props) {
  const [name, setName] = useState(label);
  const [type, setType] = useState<Schemas["LeadFieldType"]>(choices.length > 0 ? "choice" : "text");
  const [offered, setOffered] = useState(choices.join("\n"));
  const make = useAct(
    () =>
      unwrap(
        api.POST("/api/lead-fields", {
          body: { client, key: null, label: name, type, choices: type.startsWith("choice") ? offered.split("\n") : null, rule: null },
        }),
      ),
    ["form"],
    ["lead-fields"],
  );
  const problem = make.error instanceof Problem ? make.error : null;
  return (
    <chakra.form
      borderLeftWidth="3px"
      borderColor="sulphur"
      pl="3"
      py="1"
      mt="1"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate(undefined, { onSuccess: (made) => onMade(made.key) });
      }}
    >
      <Box display="flex" gap="2" mb="2">
        <Input autoFocus aria-label="The field's name" minH="30px" value={name} onChange={(e) => setName(e.target.value)} />
        <Select
          aria-label="What it holds"
          minH="30px"
          width="auto"
          value={type}
          onChange={(e) => setType(e.target.value as Schemas["LeadFieldType"])}
        >
          {fieldTypes.map(([value, word]) => (
            <option key={value} value={value}>
              {word}
            </option>
          ))}
        </Select>
      </Box>
      {type.startsWith("choice") && (
        <TextArea aria-label="Choices, one a line" rows={4} fontSize="13px" value={offered} onChange={(e) => setOffered(e.target.value)} />
      )}
      <Box display="flex" gap="3">
        <Button type="submit" size="small" disabled={make.isPending || !name.trim()}>
          Make the field
        </Button>
        <Button type="button" size="small" look="quiet" onClick={onClose}>
          Leave it
        </Button>
      </Box>
      {make.error &&
        (problem?.more.errors ? (
          <Box color="cinder" fontSize="13px" role="alert">
            {problem.detail}
          </Box>
        ) : (
          <ErrorTold error={make.error} />
        ))}
    </chakra.form>
  );
}
