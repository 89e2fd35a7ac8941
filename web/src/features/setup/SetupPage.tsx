import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem, unwrap } from "@/api/client";
import { useChosenClient } from "@/app/useChosenClient";
import { usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { ToPaste } from "@/ui/Copy";
import { Field, Input, Select } from "@/ui/Field";
import { PageHead, SectionHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { ErrorTold } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { Connections } from "./Connections";
import { DoNotContact } from "./DoNotContact";
import { Files } from "./Files";
import { Hours } from "./Hours";
import { LeadFields } from "./LeadFields";
import { Library } from "./Library";
import { ReadyWords } from "./ReadyWords";
import { Tests } from "./Tests";

/** Connections to outside services, and the keys by which programs come in. */
export function SetupPage() {
  const chosen = useChosenClient();
  const person = usePerson();
  const mine = person.clients.filter((c) => c.may.includes("edit-sources"));
  const one = chosen ?? (mine.length === 1 ? mine[0] : undefined);
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead title="Setup" beside="what goes out, what may come in, and what a lead holds" />
      <Connections one={one} />
      {one ? (
        <>
          <Box id="hours">
            <Hours key={`${one.key} hours`} clientId={one.id} />
          </Box>
          <ReadyWords key={`${one.key} words`} client={one.key} />
          <LeadFields key={`${one.key} fields`} client={one.key} />
          <Library key={`${one.key} library`} client={one.key} zone={one.zone} />
          <Files key={`${one.key} files`} client={one.key} zone={one.zone} />
          <DoNotContact key={`${one.key} list`} client={one.key} zone={one.zone} />
        </>
      ) : (
        <Box mb="8" color="ink2" fontSize="14px">
          Choose a client above for its hours, its mail server, its words, its lead fields, its files and its do-not-contact list.
        </Box>
      )}
      <Tests />
      <ApiKeys />
    </Box>
  );
}

function ApiKeys() {
  const chosen = useChosenClient();
  const person = usePerson();
  const now = useNow(10_000);
  const mine = person.clients.filter((c) => c.may.includes("edit-sources"));
  const zone = (chosen ?? mine[0])?.zone ?? "UTC";
  const [client, setClient] = useState(chosen?.key ?? (mine.length === 1 ? (mine[0]?.key ?? "") : ""));
  const [name, setName] = useState("");
  const keys = useQuery({
    queryKey: ["keys", chosen?.key ?? ""],
    queryFn: () => unwrap(api.GET("/api/keys", { params: { query: { client: chosen?.key } } })),
  });
  const make = useAct(() => unwrap(api.POST("/api/keys", { body: { client, name } })), ["keys"]);
  const revoke = useAct((keyId: string) => unwrap(api.DELETE("/api/keys/{keyId}", { params: { path: { keyId } } })), ["keys"]);
  const problem = make.error instanceof Problem ? make.error : null;
  return (
    <Box>
      <SectionHead>API keys</SectionHead>
      <Box fontSize="14px" color="ink2" mb="3">
        With a key a program of yours posts leads to <code>/api/leads</code>;{" "}
        <a href="/docs">
          <u>the API's page</u>
        </a>{" "}
        says how.
      </Box>
      {keys.error && <ErrorTold error={keys.error} again={() => void keys.refetch()} />}
      {keys.data?.keys.map((k) => (
        <Box key={k.id} display="flex" gap="3" alignItems="center" borderBottomWidth="1px" borderColor="line2" minH="40px" flexWrap="wrap">
          <Box fontWeight={600}>{k.name}</Box>
          <Box fontFamily="mono" fontSize="13px">
            {k.start}…
          </Box>
          <Box color="ink2" fontSize="13px">
            {k.client} · made by {k.madeBy} {dayAndClock(k.madeAt, now, zone)} ·{" "}
            {k.usedAt ? `used ${dayAndClock(k.usedAt, now, zone)}` : "never used"}
          </Box>
          {k.revokedAt ? (
            <State of="broken">revoked</State>
          ) : (
            <Button
              size="small"
              look="soft"
              ml="auto"
              aria-label={`Revoke ${k.name}`}
              onClick={() => window.confirm(`Whatever uses ${k.name} is refused from this moment. Revoke it?`) && revoke.mutate(k.id)}
            >
              Revoke
            </Button>
          )}
        </Box>
      ))}
      <chakra.form
        mt="4"
        maxW="460px"
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate(undefined, { onSuccess: () => setName("") });
        }}
      >
        <Field label="For which client" error={problem?.fieldError("client")}>
          {(ids) => (
            <Select {...ids} value={client} onChange={(e) => setClient(e.target.value)}>
              <option value="">Choose…</option>
              {mine.map((c) => (
                <option key={c.key} value={c.key}>
                  {c.name}
                </option>
              ))}
            </Select>
          )}
        </Field>
        <Field label="For which program" error={problem?.fieldError("name")}>
          {(ids) => <Input {...ids} value={name} onChange={(e) => setName(e.target.value)} placeholder="The booking calendar" />}
        </Field>
        <Button type="submit" disabled={make.isPending || !client || !name.trim()}>
          Make a key
        </Button>
        {make.error && !problem?.more.errors && <ErrorTold error={make.error} />}
      </chakra.form>
      {make.data && (
        <Box mt="3" maxW="560px">
          <Box mb="1">The key, told this once:</Box>
          <ToPaste text={make.data.key} label="Copy the key" />
        </Box>
      )}
    </Box>
  );
}
