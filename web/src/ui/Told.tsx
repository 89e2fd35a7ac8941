import { Box } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Problem } from "@/api/client";
import { Button } from "./Button";

/** An error as a person needs it: what happened, and what to do. */
export function ErrorTold({ error, again }: { error: unknown; again?: () => void }) {
  const problem = error instanceof Problem ? error : null;
  return (
    <Box role="alert" borderWidth="1px" borderColor="cinder" borderLeftWidth="4px" bg="card" borderRadius="sm" p="3" my="3">
      <Box fontWeight={700}>{problem?.title ?? "Lit Fuse did not answer."}</Box>
      {problem?.detail && <Box>{problem.detail}</Box>}
      <Box color="ink2">{problem?.mend ?? "Check that the server runs and that you are online; what you typed is still here."}</Box>
      {again && (
        <Button look="quiet" mt="2" onClick={again}>
          Try again
        </Button>
      )}
    </Box>
  );
}

/** Says what will be here, and offers the first step. */
export function Empty({ said, children }: { said: string; children?: ReactNode }) {
  return (
    <Box py="10" px="4" textAlign="center" color="ink2" borderWidth="1px" borderStyle="dashed" borderRadius="sm">
      <Box fontSize="16px" color="ink" mb="1">
        {said}
      </Box>
      {children}
    </Box>
  );
}

/** While something is fetched. */
export const Fetching = ({ what }: { what: string }) => (
  <Box role="status" color="ink2" py="6">
    Fetching {what} …
  </Box>
);
