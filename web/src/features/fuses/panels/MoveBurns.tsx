import { Box } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { ErrorTold } from "@/ui/Told";

/** Burns in flight finish on their own version; moving them to the armed one is a choice, seen beforehand. */
export function MoveBurns({ fuseId, mayEdit, armed, version }: { fuseId: string; mayEdit: boolean; armed: boolean; version: number }) {
  const [open, setOpen] = useState(false);
  const queries = useQueryClient();
  const params = { path: { fuseId } };
  const preview = useQuery({
    queryKey: ["move", fuseId, version],
    enabled: mayEdit && armed && version > 1,
    queryFn: () => unwrap(api.GET("/api/fuses/{fuseId}/move", { params })),
  });
  const move = useMutation({
    mutationFn: () => unwrap(api.POST("/api/fuses/{fuseId}/move", { params })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: ["move", fuseId] }),
  });
  if (move.data)
    return (
      <Box role="status" fontSize="13px">
        {move.data.moved} moved to v{version}
      </Box>
    );
  if (!preview.data || preview.data.total === 0) return null;
  const { total, burns } = preview.data;
  return (
    <>
      <Button look="soft" size="small" aria-expanded={open} onClick={() => setOpen(!open)}>
        {total} still burning on earlier versions
      </Button>
      {open && (
        <Box flexBasis="100%" borderLeftWidth="3px" borderColor="slate" pl="3" fontSize="14px" role="group" aria-label="Moving burns">
          They finish on the version they were lit with. Moved to v{version}, this would change:
          <Box as="ul" listStyleType="none" my="2" maxH="180px" overflowY="auto">
            {burns.map((b) => (
              <Box as="li" key={b.burnId}>
                <Link to={`/leads/${b.leadId}`}>
                  <u>{b.lead}</u>
                </Link>{" "}
                <Box as="span" color="ink2">
                  from v{b.fromVersion}: {b.changes.length === 0 ? "nothing" : b.changes.map((c) => `“${c.step}” ${c.words}`).join("; ")}
                </Box>
              </Box>
            ))}
          </Box>
          <Button size="small" disabled={move.isPending} onClick={() => move.mutate()}>
            Move all {total} to v{version}
          </Button>
          {move.error && <ErrorTold error={move.error} />}
        </Box>
      )}
    </>
  );
}
