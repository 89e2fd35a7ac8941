import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { useChosenClient } from "@/app/useChosenClient";
import { Button } from "@/ui/Button";
import { Field, Input } from "@/ui/Field";
import { SectionHead } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

/** Where one's own tests go, and sweeping them all away. */
export function Tests() {
  const mine = useQuery({ queryKey: ["tests", "mine"], queryFn: () => unwrap(api.GET("/api/tests/addresses")) });
  return (
    <Box mb="8">
      <SectionHead>Tests</SectionHead>
      <Box display="grid" gridTemplateColumns={{ base: "1fr", lg: "minmax(0, 460px) minmax(0, 1fr)" }} gap="8">
        {mine.data && <Addresses key={JSON.stringify(mine.data)} mine={mine.data} />}
        <Sweep />
      </Box>
    </Box>
  );
}

function Addresses({ mine }: { mine: Schemas["MyTestAddresses"] }) {
  const [set, setSet] = useState({ phone: mine.phone ?? "", email: mine.email ?? "", person: mine.person ?? "" });
  const save = useAct(
    () =>
      unwrap(api.PUT("/api/tests/addresses", { body: { phone: set.phone || null, email: set.email || null, person: set.person || null } })),
    ["tests"],
  );
  const problem = save.error instanceof Problem ? save.error : null;
  const field = (key: "phone" | "email" | "person", label: string, placeholder: string) => (
    <Field label={label} error={problem?.fieldError(key)}>
      {(ids) => <Input {...ids} placeholder={placeholder} value={set[key]} onChange={(e) => setSet({ ...set, [key]: e.target.value })} />}
    </Field>
  );
  return (
    <chakra.form
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <Box fontSize="14px" color="ink2" mb="2">
        A test sent with <b>Only to me</b> goes here, and nowhere else.
      </Box>
      {field("phone", "Texts to", "+44 7700 900123")}
      {field("email", "Letters to", "you@example.com")}
      {field("person", "Posts to, in the team's chat", "noor.abernathy")}
      <Button type="submit" disabled={save.isPending}>
        Keep my addresses
      </Button>
      {save.isSuccess && (
        <Box as="span" role="status" ml="3" fontSize="14px">
          Kept.
        </Box>
      )}
      {save.error && !problem?.more.errors && <ErrorTold error={save.error} />}
    </chakra.form>
  );
}

function Sweep() {
  const chosen = useChosenClient();
  const count = useQuery({
    queryKey: ["tests", "count", chosen?.key ?? ""],
    queryFn: () => unwrap(api.GET("/api/tests", { params: { query: { client: chosen?.key } } })),
  });
  const sweep = useAct(
    () => unwrap(api.POST("/api/tests/sweep", { params: { query: { client: chosen?.key } } })),
    ["tests"],
    ["leads"],
    ["watch"],
    ["frame"],
    ["pen"],
  );
  const swept = sweep.data;
  return (
    <Box fontSize="14px">
      <Box mb="2">
        <b>{count.data?.leads ?? "…"}</b> test {count.data?.leads === 1 ? "lead" : "leads"} of {chosen?.name ?? "all clients"}.
      </Box>
      <Button disabled={sweep.isPending || count.data?.leads === 0} onClick={() => sweep.mutate()}>
        Sweep them away
      </Button>
      <Box color="ink2" mt="2" maxW="420px">
        They go here, and out there wherever a service takes things back. Texts and letters that went out stay where they are.
      </Box>
      {swept && (
        <Box role="status" mt="2">
          {swept.leads} swept; {swept.takenBack} posts taken back out there{swept.stays > 0 && `, ${swept.stays} texts and letters stay`}.
          {swept.failed.length > 0 && <Box color="cinder">{swept.failed.join("; ")}</Box>}
        </Box>
      )}
      {sweep.error && <ErrorTold error={sweep.error} />}
    </Box>
  );
}
