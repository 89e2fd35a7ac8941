import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { ToPaste } from "@/ui/Copy";
import { Field, Input } from "@/ui/Field";
import { ErrorTold, Fetching } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

/** A mail server's other half: how answers and bounces come in, and how letters are signed. */
export function MailSetup({ connection }: { connection: Schemas["ConnectionRow"] }) {
  const path = { params: { path: { connectionId: connection.id } } };
  const setup = useQuery({
    queryKey: ["mail-setup", connection.id],
    queryFn: () => unwrap(api.GET("/api/connections/{connectionId}/mail", path)),
  });
  const secret = useAct(() => unwrap(api.POST("/api/connections/{connectionId}/mail/secret", path)), ["mail-setup"]);
  if (setup.error) return <ErrorTold error={setup.error} again={() => void setup.refetch()} />;
  if (!setup.data) return <Fetching what="how mail comes in" />;
  return (
    <Box mt="2" maxW="640px" fontSize="14px">
      <Box fontWeight={600}>Answers and letters that come back</Box>
      <Box color="ink2" mb="1">
        Have your mail server post each message for the sender’s address here, as it came (message/rfc822), signed by the Standard Webhooks
        scheme. Answers join the lead’s story; a letter that comes back marks the address.
      </Box>
      <ToPaste label="Copy the address" text={setup.data.address} />
      {secret.data?.secret && <ToPaste label="Copy the secret: it is shown this once" text={secret.data.secret} />}
      <Box mb="3">
        {setup.data.hears ? "It has a secret to sign with. " : "It has no secret yet, so nothing is taken in. "}
        <Button
          size="small"
          look="soft"
          disabled={secret.isPending}
          onClick={() =>
            (!setup.data.hears || window.confirm("What signs with the secret before is refused from now on. Make a new one?")) &&
            secret.mutate(undefined)
          }
        >
          {setup.data.hears ? "Make a new secret" : "Make a secret"}
        </Button>
      </Box>
      {secret.error && <ErrorTold error={secret.error} />}
      <Dkim key={setup.data.domain ?? ""} connection={connection} setup={setup.data} />
    </Box>
  );
}

function Dkim({ connection, setup }: { connection: Schemas["ConnectionRow"]; setup: Schemas["MailSetup"] }) {
  const [domain, setDomain] = useState(setup.domain ?? connection.account?.split("@")[1] ?? "");
  const [selector, setSelector] = useState(setup.selector ?? "litfuse");
  const sign = useAct(
    (to: string) =>
      unwrap(
        api.PUT("/api/connections/{connectionId}/mail/dkim", {
          params: { path: { connectionId: connection.id } },
          body: { domain: to, selector },
        }),
      ),
    ["mail-setup"],
  );
  const problem = sign.error instanceof Problem ? sign.error : null;
  return (
    <>
      <Box fontWeight={600}>Signed letters (DKIM)</Box>
      {setup.record ? (
        <>
          <Box color="ink2" mb="1">
            Letters are signed for {setup.domain}. Publish this TXT record there, so that others can check it.
          </Box>
          <ToPaste label="Copy the name" text={setup.record.name} />
          <ToPaste label="Copy the text" text={setup.record.text} />
          <Button size="small" look="soft" disabled={sign.isPending} onClick={() => sign.mutate("")}>
            Sign no more
          </Button>
        </>
      ) : (
        <chakra.form
          display="flex"
          gap="3"
          alignItems="flex-start"
          flexWrap="wrap"
          onSubmit={(e) => {
            e.preventDefault();
            sign.mutate(domain);
          }}
        >
          <Field label="Domain that letters come from" error={problem?.fieldError("domain")}>
            {(ids) => <Input {...ids} value={domain} onChange={(e) => setDomain(e.target.value)} />}
          </Field>
          <Field label="Name of the key" error={problem?.fieldError("selector")}>
            {(ids) => <Input {...ids} width="140px" value={selector} onChange={(e) => setSelector(e.target.value)} />}
          </Field>
          <Button type="submit" size="small" mt="6" disabled={sign.isPending || !domain}>
            Make a key and sign
          </Button>
        </chakra.form>
      )}
      {sign.error && !problem?.more.errors && <ErrorTold error={sign.error} />}
    </>
  );
}
