import { Box } from "@chakra-ui/react";
import { Frame } from "@/features/frame/Frame";
import { ErrorTold } from "@/ui/Told";
import { SignInPage } from "./SignInPage";
import { SignedIn, useSession } from "./useSession";

/** Nobody passes without an account; who comes by a link lands on it after signing in. */
export function Gate() {
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
