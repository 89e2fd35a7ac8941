import { Box } from "@chakra-ui/react";
import { api, type Schemas, unwrap } from "@/api/client";
import { may, usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { ErrorTold } from "@/ui/Told";
import { secondsBetween, span } from "@/ui/time";
import { useAct } from "@/ui/useAct";

/** Connections for which something waits or failed, worst first. */
export function Queues({
  queues,
  narrow,
}: {
  queues: readonly Schemas["ConnectionQueue"][];
  narrow: (to: Record<string, string>) => void;
}) {
  if (queues.length === 0) return null;
  const worst = [...queues].sort(
    (a, b) => Number(Boolean(b.pausedAt)) - Number(Boolean(a.pausedAt)) || b.stuck - a.stuck || b.failed - a.failed,
  );
  return (
    <Box as="section" aria-label="Connections with something waiting or failed" mb="5" borderTopWidth="1px" borderColor="line">
      {worst.map((q) => (
        <Queue key={q.id} queue={q} narrow={narrow} />
      ))}
    </Box>
  );
}

function Queue({ queue: q, narrow }: { queue: Schemas["ConnectionQueue"]; narrow: (to: Record<string, string>) => void }) {
  const now = useNow(5000);
  const person = usePerson();
  const path = { params: { path: { connectionId: q.id } } };
  const pause = useAct(() => unwrap(api.POST("/api/connections/{connectionId}/pause", path)), ["deliveries"], ["connections"]);
  const resume = useAct(() => unwrap(api.POST("/api/connections/{connectionId}/resume", path)), ["deliveries"], ["connections"]);
  const error = pause.error ?? resume.error;
  const see = (state: string) => narrow({ connection: q.id, state });
  return (
    <Box borderBottomWidth="1px" borderColor="line2" py="2" role="group" aria-label={`${q.name} of ${q.client}`}>
      <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap">
        <Box fontWeight={600}>{q.name}</Box>
        <Box fontSize="13px" color="ink2">
          {q.client}
        </Box>
        {q.pausedAt && (
          <State of="waiting">
            paused {span(secondsBetween(q.pausedAt, now))}
            {q.pausedBy ? ` by ${q.pausedBy}` : ""}
          </State>
        )}
        {q.waiting > 0 && (
          <Button look="quiet" fontSize="13px" fontWeight={400} onClick={() => see("waiting")}>
            {q.waiting.toLocaleString("en-GB")} waiting{q.oldest ? `, the oldest for ${span(secondsBetween(q.oldest, now))}` : ""}
          </Button>
        )}
        {q.stuck > 0 && (
          <Button look="quiet" fontSize="13px" fontWeight={400} color="cinder" onClick={() => see("stuck")}>
            {q.stuck.toLocaleString("en-GB")} to be tried again
          </Button>
        )}
        {q.failed > 0 && (
          <Button look="quiet" fontSize="13px" fontWeight={400} color="cinder" onClick={() => see("failed")}>
            {q.failed.toLocaleString("en-GB")} failed in seven days
          </Button>
        )}
        {may(person, "edit-sources") && (
          <Box ml="auto">
            {q.pausedAt ? (
              <Button
                size="small"
                disabled={resume.isPending}
                onClick={() => resume.mutate()}
                aria-label={`Resume ${q.name} of ${q.client}`}
              >
                Resume
              </Button>
            ) : (
              <Button
                size="small"
                look="soft"
                disabled={pause.isPending}
                onClick={() => pause.mutate()}
                aria-label={`Pause ${q.name} of ${q.client}`}
              >
                Pause
              </Button>
            )}
          </Box>
        )}
      </Box>
      {q.lastWord && q.stuck > 0 && (
        <Box fontSize="13px" color="cinder">
          {q.lastWord}
        </Box>
      )}
      {error && <ErrorTold error={error} />}
    </Box>
  );
}
