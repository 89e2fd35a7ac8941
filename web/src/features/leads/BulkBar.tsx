import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Input, Select } from "@/ui/Field";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";
import { SendTo } from "./SendTo";
import type { Narrowing } from "./useLeadList";

type Props = {
  picked: readonly string[];
  all: boolean;
  total: number;
  shown: number;
  client: string | undefined;
  filter: Narrowing;
  choices: Schemas["LeadChoices"] | undefined;
  onAll: () => void;
  onNone: () => void;
};

const none = {
  client: null,
  q: null,
  state: null,
  form: null,
  source: null,
  owner: null,
  tag: null,
  tests: null,
  since: null,
  until: null,
  field: null,
  is: null,
  sort: null,
};

/** What is done to many leads at once: those chosen, or all that the filter means. */
export function BulkBar({ picked, all, total, shown, client, filter, choices, onAll, onNone }: Props) {
  const [tag, setTag] = useState("");
  const change = useAct(
    (what: { tag?: string; untag?: string; owner?: string; stage?: string }) =>
      unwrap(
        api.POST("/api/leads/change", {
          body: {
            ids: all ? null : [...picked],
            filter: all ? { ...none, ...filter, client: client ?? null } : null,
            tag: what.tag ?? null,
            untag: what.untag ?? null,
            owner: what.owner ?? null,
            stage: what.stage ?? null,
          },
        }),
      ),
    ["leads"],
    ["lead"],
  );
  const light = useAct(
    (fuseId: string) =>
      unwrap(
        api.POST("/api/fuses/{fuseId}/light", {
          params: { path: { fuseId } },
          body: { ids: all ? null : [...picked], filter: all ? { ...none, ...filter, client: client ?? null } : null },
        }),
      ),
    ["leads"],
    ["lead"],
  );
  const count = all ? total : picked.length;
  return (
    <Box
      position="sticky"
      bottom={{ base: "52px", md: "0" }}
      bg="card"
      borderTopWidth="2px"
      borderColor="ink"
      py="2"
      px="3"
      display="flex"
      gap="3"
      alignItems="center"
      flexWrap="wrap"
      zIndex="4"
      role="group"
      aria-label="With the chosen leads"
    >
      <b>{count.toLocaleString("en-GB")} chosen</b>
      {!all && total > shown && picked.length === shown && (
        <Button look="quiet" onClick={onAll}>
          Choose all {total.toLocaleString("en-GB")} that fit
        </Button>
      )}
      <Input
        aria-label="Tag"
        list="tags-known"
        placeholder="a tag"
        width="140px"
        minH="32px"
        value={tag}
        onChange={(e) => setTag(e.target.value)}
      />
      <datalist id="tags-known">
        {choices?.tags.map((t) => (
          <option key={t} value={t} />
        ))}
      </datalist>
      <Button size="small" disabled={!tag.trim() || change.isPending} onClick={() => change.mutate({ tag })}>
        Tag
      </Button>
      <Button size="small" look="soft" disabled={!tag.trim() || change.isPending} onClick={() => change.mutate({ untag: tag })}>
        Untag
      </Button>
      <Select
        aria-label="Give them to"
        width="auto"
        minH="32px"
        py="0"
        fontSize="14px"
        value=""
        onChange={(e) => e.target.value && change.mutate({ owner: e.target.value })}
      >
        <option value="">give them to…</option>
        <option value="nobody">nobody</option>
        {choices?.owners.map((o) => (
          <option key={o.id} value={o.id}>
            {o.name}
          </option>
        ))}
      </Select>
      <Pick
        label="Set the stage"
        first="stage…"
        of={(choices?.stages ?? []).map((s) => [s, s])}
        onPick={(stage) => change.mutate({ stage })}
      />
      <Pick
        label="Light a fuse for them"
        first="light a fuse…"
        of={(choices?.fuses ?? []).map((f) => [f.id, f.name])}
        onPick={(fuse) => window.confirm(`Light it for ${count.toLocaleString("en-GB")}?`) && light.mutate(fuse)}
      />
      {client && <SendTo client={client} ids={all ? null : picked} filter={all ? { ...none, ...filter, client: client ?? null } : null} />}
      <Button look="quiet" onClick={onNone}>
        Choose none
      </Button>
      {change.data && (
        <Box role="status" fontSize="14px">
          {change.data.changed} changed.
        </Box>
      )}
      {light.data && (
        <Box role="status" fontSize="14px">
          {light.data.lit} lit{light.data.notRelit > 0 ? `, ${light.data.notRelit} not relit; each story says why` : ""}.
        </Box>
      )}
      {change.error && <ErrorTold error={change.error} />}
      {light.error && <ErrorTold error={light.error} />}
    </Box>
  );
}

type PickProps = { label: string; first: string; of: readonly (readonly [string, string])[]; onPick: (key: string) => void };

const Pick = ({ label, first, of, onPick }: PickProps) => (
  <Select
    aria-label={label}
    width="auto"
    maxW="180px"
    minH="32px"
    py="0"
    fontSize="14px"
    value=""
    onChange={(e) => e.target.value && onPick(e.target.value)}
  >
    <option value="">{first}</option>
    {of.map(([key, name]) => (
      <option key={key} value={key}>
        {name}
      </option>
    ))}
  </Select>
);
