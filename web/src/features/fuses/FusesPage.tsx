import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { api, type Schemas, told } from "@/api/client";
import { may, usePerson } from "@/features/accounts/useSession";
import { useChosenClient, withClient } from "@/features/frame/useChosenClient";
import { Button } from "@/ui/Button";
import { PageHead } from "@/ui/Page";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { FuseStateWord } from "./FuseStateWord";
import { times } from "./words";

/** What happens next, fuse by fuse, each told in a sentence. */
export function FusesPage() {
  const chosen = useChosenClient();
  const fuses = useQuery({
    queryKey: ["fuses", chosen?.key ?? ""],
    queryFn: () => told(api.GET("/api/fuses", { params: { query: { client: chosen?.key } } })),
  });
  return (
    <Box p={{ base: "3", md: "5" }} pt="4" maxW="1060px">
      <PageHead title="Fuses" beside="what happens when somebody asks">
        <NewFuse />
      </PageHead>
      {fuses.error && <ErrorTold error={fuses.error} again={() => void fuses.refetch()} />}
      {fuses.isPending && <Fetching what="fuses" />}
      {fuses.data && fuses.data.fuses.length === 0 && (
        <Empty said="No fuse yet.">Until one is armed, submissions become leads and nobody is told.</Empty>
      )}
      <Box as="ul" listStyleType="none">
        {fuses.data?.fuses.map((f) => (
          <FuseItem key={f.id} fuse={f} clientKey={chosen?.key} showClient={!chosen} />
        ))}
      </Box>
    </Box>
  );
}

function FuseItem({ fuse, clientKey, showClient }: { fuse: Schemas["FuseRow"]; clientKey: string | undefined; showClient: boolean }) {
  return (
    <Box as="li" borderTopWidth="1px" py="3" display="grid" gridTemplateColumns={{ base: "1fr", md: "1fr 190px" }} gap="4">
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
      </Box>
      <Box textAlign={{ base: "left", md: "right" }}>
        <FuseStateWord fuse={fuse} />
        <Box fontFamily="mono" fontSize="12px" color="ink2" mt="1">
          lit {times(fuse.litIn30Days)} in 30 days
        </Box>
      </Box>
    </Box>
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
