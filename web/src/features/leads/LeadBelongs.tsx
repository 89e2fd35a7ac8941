import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Input, Select } from "@/ui/Field";
import { SectionHead } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";
import { useLeadChoices } from "./useLeadList";

/** Who answers for them, their stage and tags. */
export function Belongs({ whole, mayTouch }: { whole: Schemas["LeadDetail"]; mayTouch: boolean }) {
  const { around, lead } = whole;
  const [tag, setTag] = useState("");
  const choices = useLeadChoices(whole.clientKey);
  const change = useAct(
    (what: { tag?: string; untag?: string; owner?: string; stage?: string }) =>
      unwrap(
        api.POST("/api/leads/change", {
          body: {
            ids: [lead.id],
            filter: null,
            tag: what.tag ?? null,
            untag: what.untag ?? null,
            owner: what.owner ?? null,
            stage: what.stage ?? null,
          },
        }),
      ),
    ["lead", lead.id],
    ["leads"],
  );
  const owner = choices.data?.owners.find((o) => o.name === around.owner)?.id ?? "nobody";
  return (
    <Box mt="5" fontSize="14px">
      <SectionHead>Who answers for them</SectionHead>
      {mayTouch ? (
        <Select
          aria-label="Owner"
          minH="32px"
          py="0"
          fontSize="14px"
          value={owner}
          onChange={(e) => change.mutate({ owner: e.target.value })}
        >
          <option value="nobody">nobody in particular</option>
          {choices.data?.owners.map((o) => (
            <option key={o.id} value={o.id}>
              {o.name}
            </option>
          ))}
        </Select>
      ) : (
        (around.owner ?? "nobody in particular")
      )}
      <Box display="flex" gap="2" alignItems="center" mt="2">
        <Box as="span" color="ink2">
          Stage
        </Box>
        {mayTouch ? (
          <Select
            aria-label="Stage"
            minH="32px"
            py="0"
            fontSize="14px"
            value={whole.stage}
            onChange={(e) => change.mutate({ stage: e.target.value })}
          >
            {!whole.stages.includes(whole.stage) && <option value={whole.stage}>{whole.stage}</option>}
            {whole.stages.map((s) => (
              <option key={s} value={s}>
                {s}
              </option>
            ))}
          </Select>
        ) : (
          whole.stage
        )}
      </Box>
      <Box display="flex" gap="2" flexWrap="wrap" mt="2" alignItems="center">
        {around.tags.map((t) => (
          <Box key={t} display="inline-flex" gap="1" alignItems="center" borderWidth="1px" borderColor="slate" borderRadius="sm" px="2">
            {t}
            {mayTouch && (
              <Button look="quiet" aria-label={`Take the tag ${t} off`} onClick={() => change.mutate({ untag: t })}>
                ×
              </Button>
            )}
          </Box>
        ))}
        {mayTouch && (
          <form
            onSubmit={(e) => {
              e.preventDefault();
              if (tag.trim()) change.mutate({ tag }, { onSuccess: () => setTag("") });
            }}
          >
            <Input
              aria-label="Put a tag on"
              placeholder="add a tag"
              width="110px"
              minH="28px"
              py="0"
              fontSize="13px"
              value={tag}
              onChange={(e) => setTag(e.target.value)}
            />
          </form>
        )}
      </Box>
      {change.error && <ErrorTold error={change.error} />}
    </Box>
  );
}
