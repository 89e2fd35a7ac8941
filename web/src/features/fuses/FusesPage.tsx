import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { useFrame } from "@/app/useFrame";
import { may, usePerson } from "@/app/useSession";
import { LinesCounted } from "@/features/continuity/LinesOf";
import { useLines } from "@/features/continuity/useLines";
import { FuseStateWord } from "@/features/fuses/model/FuseStateWord";
import { Button } from "@/ui/Button";
import { PageHead } from "@/ui/Page";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { useAct } from "@/ui/useAct";
import { litTimes } from "./model/words";

/** What happens next, fuse by fuse, each told in a sentence. */
export function FusesPage() {
  const chosen = useChosenClient();
  const fuses = useQuery({
    queryKey: ["fuses", chosen?.key ?? ""],
    queryFn: () => unwrap(api.GET("/api/fuses", { params: { query: { client: chosen?.key } } })),
  });
  const lines = useLines({ client: chosen?.key });
  const person = usePerson();
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const disarm = useAct((ids: string[]) => unwrap(api.POST("/api/fuses/disarm", { body: { ids } })), ["fuses"], ["frame"]);
  const rows = fuses.data?.fuses ?? [];
  const chosenOnes = rows.filter((f) => picked.has(f.id) && f.state === "armed");
  const pick = (id: string) =>
    setPicked((before) => {
      const next = new Set(before);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  return (
    <Box p={{ base: "3", md: "5" }} pt="4" maxW="1060px">
      <PageHead title="Fuses" beside="what happens when somebody asks">
        <Box display="flex" gap="4" alignItems="center">
          <Box fontSize="14px" textDecoration="underline" textUnderlineOffset="3px">
            <Link to={withClient("/fuses/burns", chosen?.key)}>Burns</Link>
          </Box>
          <HoldAll />
          <NewFuse />
        </Box>
      </PageHead>
      {chosenOnes.length > 0 && (
        <Box role="group" aria-label="With those chosen" display="flex" gap="3" alignItems="center" mb="2">
          <Button
            size="small"
            disabled={disarm.isPending}
            onClick={() =>
              window.confirm(`Disarm ${chosenOnes.map((f) => f.name).join(", ")}? Nothing lights them then; what burns goes on.`) &&
              disarm.mutate(
                chosenOnes.map((f) => f.id),
                { onSuccess: () => setPicked(new Set()) },
              )
            }
          >
            {chosenOnes.length === 1 ? "Disarm 1 chosen" : `Disarm ${chosenOnes.length} chosen`}
          </Button>
          <Box fontSize="13px" color="ink2">
            Nothing lights them then; what burns goes on.
          </Box>
        </Box>
      )}
      {disarm.error && <ErrorTold error={disarm.error} />}
      {fuses.error && <ErrorTold error={fuses.error} again={() => void fuses.refetch()} />}
      {fuses.isPending && <Fetching what="fuses" />}
      {fuses.data && fuses.data.fuses.length === 0 && (
        <Empty said="No fuse yet.">Until one is armed, submissions become leads and nobody is told.</Empty>
      )}
      <Box as="ul" listStyleType="none">
        {rows.map((f) => (
          <FuseItem
            key={f.id}
            fuse={f}
            lines={lines.data?.lines.filter((l) => l.fuses.includes(f.id)) ?? []}
            clientKey={chosen?.key}
            showClient={!chosen}
            picked={picked.has(f.id)}
            onPick={f.state === "armed" && may(person, "edit-fuses", f.clientId) ? () => pick(f.id) : undefined}
          />
        ))}
      </Box>
    </Box>
  );
}

type ItemProps = {
  fuse: Schemas["FuseRow"];
  lines: readonly Schemas["LineRow"][];
  clientKey: string | undefined;
  showClient: boolean;
  picked: boolean;
  onPick: (() => void) | undefined;
};

function FuseItem({ fuse, lines, clientKey, showClient, picked, onPick }: ItemProps) {
  return (
    <Box as="li" borderTopWidth="1px" py="3" display="grid" gridTemplateColumns={{ base: "20px 1fr", md: "20px 1fr 190px" }} columnGap="3">
      <Box pt="0.5">{onPick && <input type="checkbox" aria-label={`Choose ${fuse.name}`} checked={picked} onChange={onPick} />}</Box>
      <Box minW="0">
        <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap">
          <Box fontWeight={700} fontSize="16px" _hover={{ textDecoration: "underline" }}>
            <Link to={withClient(`/fuses/${fuse.id}`, clientKey)}>{fuse.name}</Link>
          </Box>
          {showClient && (
            <Box color="ink2" fontSize="13px">
              {fuse.client}
            </Box>
          )}
        </Box>
        <Box color="ink2" mt="1">
          {fuse.sentence}
        </Box>
        <LinesCounted lines={lines} />
      </Box>
      <Box textAlign={{ base: "left", md: "right" }} gridColumn={{ base: "2", md: "auto" }}>
        <FuseStateWord fuse={fuse} />
        <Box fontFamily="mono" fontSize="12px" color="ink2" mt="1">
          {litTimes(fuse.litIn30Days)} in 30 days
        </Box>
      </Box>
    </Box>
  );
}

// Stops everything of one client at once; what that means is said before.
function HoldAll() {
  const person = usePerson();
  const chosen = useChosenClient() ?? (person.clients.length === 1 ? person.clients[0] : undefined);
  const frame = useFrame(chosen?.key);
  const hold = useAct(
    (clientId: string) => unwrap(api.POST("/api/clients/{clientId}/hold", { params: { path: { clientId } } })),
    ["frame"],
    ["fuses"],
  );
  const held = frame.data?.clients.find((c) => c.id === chosen?.id)?.heldAt;
  if (!chosen || held || !may(person, "edit-fuses", chosen.id)) return null;
  return (
    <Button
      look="soft"
      disabled={hold.isPending}
      onClick={() =>
        window.confirm(
          `Hold everything for ${chosen.name}? No message goes out and no burn goes on until it is let go. Submissions go on being kept and become leads.`,
        ) && hold.mutate(chosen.id)
      }
    >
      Hold everything
    </Button>
  );
}

function NewFuse() {
  const person = usePerson();
  const chosen = useChosenClient();
  const navigate = useNavigate();
  if (!person.clients.some((c) => may(person, "edit-fuses", c.id))) return null;
  return (
    <Button look="primary" onClick={() => void navigate(withClient("/fuses/new", chosen?.key))}>
      New fuse
    </Button>
  );
}
