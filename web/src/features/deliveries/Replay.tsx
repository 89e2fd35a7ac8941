import { Box } from "@chakra-ui/react";
import { api, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";
import type { DeliveryFilter } from "./useDeliveries";
import { replayWords } from "./words";

/** Sends again what is chosen, or all that the sentence means; says first how many that is. */
export function Replay({ picked, filter, done }: { picked: ReadonlySet<string>; filter: DeliveryFilter; done: () => void }) {
  const which = picked.size > 0 ? { ids: [...picked], filter: null } : { ids: null, filter };
  const count = useAct(() => unwrap(api.POST("/api/deliveries/replay", { body: { ...which, justCount: true } })));
  const send = useAct(
    () => unwrap(api.POST("/api/deliveries/replay", { body: { ...which, justCount: false } })),
    ["deliveries"],
    ["leads"],
  );
  const counted = count.data;
  const error = send.error ?? count.error;
  const some = (counted?.replayed ?? 0) > 0;
  return (
    <Box display="flex" gap="3" alignItems="center" flexWrap="wrap" mb="3" minH="36px" fontSize="14px">
      {send.data ? (
        <Box role="status">
          {send.data.replayed.toLocaleString("en-GB")} {send.data.replayed === 1 ? "is" : "are"} being sent again.
        </Box>
      ) : counted ? (
        <>
          <Box role="status">{replayWords(counted)}</Box>
          {some && (
            <Button look="primary" size="small" disabled={send.isPending} onClick={() => send.mutate(undefined, { onSuccess: done })}>
              Send {counted.replayed === 1 ? "that one" : `these ${counted.replayed.toLocaleString("en-GB")}`} again
            </Button>
          )}
          <Button look="quiet" fontSize="13px" fontWeight={400} onClick={() => count.reset()}>
            Leave it
          </Button>
        </>
      ) : (
        <Button size="small" disabled={count.isPending} onClick={() => count.mutate()}>
          Send {picked.size > 0 ? (picked.size === 1 ? "the chosen one" : `the ${picked.size} chosen`) : "these"} again…
        </Button>
      )}
      {error && <ErrorTold error={error} />}
    </Box>
  );
}
