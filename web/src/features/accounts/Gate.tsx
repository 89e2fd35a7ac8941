import { Box } from "@chakra-ui/react";
import type { ComponentType } from "react";
import { type Person, SignedIn, useSession } from "@/app/useSession";
import { ErrorTold } from "@/ui/Told";
import { SignInPage } from "./SignInPage";

/** Nobody passes without an account; who comes by a link lands on it after signing in. Inside it stands the frame. */
export function Gate({ frame: Frame }: { frame: ComponentType<{ person: Person }> }) {
  const { data, error, isPending, refetch } = useSession();
  if (isPending) return <Box p="6" role="status" aria-label="Asking who you are" />;
  if (error) {
    return (
      <Box maxW="480px" mx="auto" mt="12vh" px="4">
        <ErrorTold error={error} again={() => void refetch()} />
      </Box>
    );
  }
  return data ? (
    <SignedIn value={data}>
      <Frame person={data} />
    </SignedIn>
  ) : (
    <SignInPage />
  );
}
