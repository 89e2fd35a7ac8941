import { Box, chakra } from "@chakra-ui/react";
import { type FormEvent, useState } from "react";
import { Problem } from "@/api/client";
import { useSignIn } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { Field, Input } from "@/ui/Field";
import { ErrorTold } from "@/ui/Told";

export function SignInPage() {
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const signIn = useSignIn();
  const problem = signIn.error instanceof Problem ? signIn.error : null;
  const fields = { email: problem?.fieldError("email"), password: problem?.fieldError("password") };
  const send = (event: FormEvent) => {
    event.preventDefault();
    signIn.mutate({ email, password });
  };
  return (
    <Box minH="100vh" display="grid" gridTemplateColumns={{ base: "1fr", md: "1fr 1fr" }}>
      <title>Sign in · Lit Fuse</title>
      <Box bg="charcoal" color="saltpetre" p={{ base: "6", md: "12" }} display="flex" flexDirection="column" justifyContent="center">
        <Box fontSize="17px" fontWeight={700} mb="6" display="flex" alignItems="center" gap="3">
          <Box width="13px" height="13px" bg="#B9CC2E" transform="rotate(45deg)" aria-hidden />
          Lit Fuse
        </Box>
        <Box fontSize={{ base: "22px", md: "30px" }} fontWeight={700} lineHeight={1.2} maxW="18em">
          They asked a moment ago. In an hour they will have forgotten whom.
        </Box>
        <Box display={{ base: "none", md: "block" }} position="relative" height="28px" mt="8" maxW="420px" aria-hidden>
          <Box position="absolute" top="12px" left="0" right="0" height="4px" bg="#34393A" />
          <Box position="absolute" top="11px" left="0" width="38%" height="6px" bg="#B9CC2E" />
          <Box position="absolute" top="8px" left="38%" width="12px" height="12px" ml="-6px" bg="#B9CC2E" transform="rotate(45deg)" />
          <Box position="absolute" top="3px" left="76%" width="2px" height="22px" bg="#EFF1EC" />
        </Box>
      </Box>
      <Box as="main" p={{ base: "6", md: "12" }} display="flex" flexDirection="column" justifyContent="center">
        <Box maxW="340px" width="full">
          <chakra.h1 fontSize="20px" fontWeight={700} mb="4">
            Sign in
          </chakra.h1>
          <form onSubmit={send} noValidate>
            <Field label="Email" error={fields.email}>
              {(ids) => (
                <Input {...ids} type="email" autoComplete="username" value={email} onChange={(e) => setEmail(e.target.value)} autoFocus />
              )}
            </Field>
            <Field label="Password" error={fields.password}>
              {(ids) => (
                <Input
                  {...ids}
                  type="password"
                  autoComplete="current-password"
                  value={password}
                  onChange={(e) => setPassword(e.target.value)}
                />
              )}
            </Field>
            {signIn.error && !fields.email && !fields.password && <ErrorTold error={signIn.error} />}
            <Button type="submit" look="primary" width="full" disabled={signIn.isPending}>
              {signIn.isPending ? "Signing in …" : "Sign in"}
            </Button>
          </form>
        </Box>
      </Box>
    </Box>
  );
}
