import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { fieldTypes, MakeField } from "@/features/mapping/MakeField";
import { SentencePick } from "@/features/sources/SentencePick";
import { Button } from "@/ui/Button";
import { SectionHead } from "@/ui/Page";
import { ErrorTold, Fetching } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

const rules: [Schemas["FillRule"], string][] = [
  ["newest-wins", "the newest answer stands"],
  ["fill-empties", "only an empty one is filled"],
  ["keep", "what the first said stays"],
];

/** The fields of a client's leads, and what later answers do to each. */
export function LeadFields({ client }: { client: string }) {
  const [making, setMaking] = useState(false);
  const fields = useQuery({
    queryKey: ["lead-fields", client],
    queryFn: () => unwrap(api.GET("/api/lead-fields", { params: { query: { client } } })),
  });
  const set = useAct(
    ({ key, rule }: { key: string; rule: Schemas["FillRule"] }) =>
      unwrap(
        api.PUT("/api/lead-fields/{key}", {
          params: { path: { key } },
          body: { client, key: null, label: null, type: null, choices: null, rule },
        }),
      ),
    ["lead-fields"],
  );
  return (
    <Box mb="8">
      <SectionHead>Lead fields</SectionHead>
      {fields.error && <ErrorTold error={fields.error} />}
      {fields.isPending && <Fetching what="fields" />}
      <Box display="grid" gridTemplateColumns={{ base: "minmax(0, 1fr)", xl: "1fr 1fr" }} columnGap="8" maxW="1100px">
        {fields.data?.fields.map((f) => (
          <Box
            key={f.key}
            display="grid"
            gridTemplateColumns={{ base: "minmax(80px, 1fr) 56px minmax(0, 180px)", md: "minmax(100px, 150px) 100px 1fr" }}
            gap="2"
            alignItems="center"
            minH="36px"
            borderBottomWidth="1px"
            borderColor="line2"
            fontSize="14px"
          >
            <Box fontWeight={f.own ? 600 : 400} title={f.choices.join(", ")}>
              {f.label}
            </Box>
            <Box color="ink2" fontSize="13px">
              {fieldTypes.find(([t]) => t === f.type)?.[1] ?? f.type}
            </Box>
            <SentencePick
              label={`When ${f.label} is answered again`}
              value={f.rule}
              of={rules}
              onChange={(rule) => set.mutate({ key: f.key, rule: rule as Schemas["FillRule"] })}
            />
          </Box>
        ))}
      </Box>
      <Box mt="3" maxW="460px">
        {making ? (
          <MakeField client={client} label="" choices={[]} onMade={() => setMaking(false)} onClose={() => setMaking(false)} />
        ) : (
          <Button onClick={() => setMaking(true)}>Make a field</Button>
        )}
      </Box>
      {set.error && <ErrorTold error={set.error} />}
    </Box>
  );
}
