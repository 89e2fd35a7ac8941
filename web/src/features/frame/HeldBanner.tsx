import { Box } from "@chakra-ui/react";
import { api, type Schemas, unwrap } from "@/api/client";
import { may, type Person } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { useNow } from "@/ui/serverClock";
import { dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";

type Props = { person: Person; chosen: string | undefined; counts: readonly Schemas["FrameClient"][] | undefined };

/** Everything is held for a client: said on every page of it, with the way on. */
export function HeldBanner({ person, chosen, counts }: Props) {
  const now = useNow(30_000);
  const letGo = useAct(
    (clientId: string) => unwrap(api.POST("/api/clients/{clientId}/let-go", { params: { path: { clientId } } })),
    ["frame"],
    ["fuses"],
  );
  const held = (counts ?? []).filter((c) => c.heldAt !== null && (chosen === undefined || c.key === chosen));
  return held.map((c) => {
    const client = person.clients.find((p) => p.id === c.id);
    if (!client || !c.heldAt) return null;
    return (
      <Box
        key={c.id}
        role="status"
        bg="slate"
        color="paper"
        px="4"
        py="1.5"
        fontSize="14px"
        display="flex"
        gap="3"
        alignItems="center"
        flexWrap="wrap"
      >
        <span>
          <b>Everything is held for {client.shortName}</b> since {dayAndClock(c.heldAt, now, client.zone)}
          {c.heldBy ? `, by ${c.heldBy}` : ""}. Submissions go on being kept; nothing goes out
          {c.heldBack > 0 ? `, and ${c.heldBack === 1 ? "1 message waits" : `${c.heldBack} messages wait`}` : ""}.
        </span>
        {may(person, "edit-fuses", c.id) && (
          <Button look="soft" size="small" ml="auto" color="ink" disabled={letGo.isPending} onClick={() => letGo.mutate(c.id)}>
            Let it go on
          </Button>
        )}
      </Box>
    );
  });
}
