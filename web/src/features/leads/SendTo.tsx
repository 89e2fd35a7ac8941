import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Select } from "@/ui/Field";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

type SendToProps = { client: string; ids: readonly string[] | null; filter: Schemas["LeadFilter"] | null };

/** Sends the chosen leads to a system of record, as a step of a fuse does it. */
export function SendTo({ client, ids, filter }: SendToProps) {
  const [chosen, setChosen] = useState("");
  const steps = useQuery({
    queryKey: ["pushable", client],
    queryFn: () => unwrap(api.GET("/api/deliveries/pushable", { params: { query: { client } } })),
    staleTime: 30_000,
  });
  const of = steps.data?.steps.find((s) => `${s.fuseId}/${s.stepId}` === chosen);
  const body = (justCount: boolean) => ({
    client,
    ids: ids ? [...ids] : null,
    filter,
    fuseId: of?.fuseId ?? null,
    stepId: of?.stepId ?? null,
    step: null,
    justCount,
  });
  const count = useAct(() => unwrap(api.POST("/api/deliveries/push", { body: body(true) })));
  const send = useAct(() => unwrap(api.POST("/api/deliveries/push", { body: body(false) })), ["leads"], ["lead"], ["deliveries"]);
  const error = send.error ?? count.error;
  if (steps.data && steps.data.steps.length === 0) return null;
  return (
    <>
      <Select
        aria-label="Send them to"
        width="auto"
        maxW="230px"
        minH="32px"
        py="0"
        fontSize="14px"
        value={chosen}
        onChange={(e) => {
          count.reset();
          send.reset();
          setChosen(e.target.value);
        }}
      >
        <option value="">send them to…</option>
        {steps.data?.steps.map((s) => (
          <option key={`${s.fuseId}/${s.stepId}`} value={`${s.fuseId}/${s.stepId}`}>
            {s.connection}: “{s.step}” of {s.fuse}
          </option>
        ))}
      </Select>
      {of && !count.data && !send.data && (
        <Button size="small" disabled={count.isPending} onClick={() => count.mutate()}>
          Send…
        </Button>
      )}
      {count.data && !send.data && (
        <Button size="small" disabled={send.isPending} onClick={() => send.mutate()}>
          Send {count.data.pushed.toLocaleString("en-GB")} to {count.data.through}
        </Button>
      )}
      {send.data && (
        <Box role="status" fontSize="14px">
          {send.data.pushed.toLocaleString("en-GB")} on their way to {send.data.through}.
        </Box>
      )}
      {error && <ErrorTold error={error} />}
    </>
  );
}
