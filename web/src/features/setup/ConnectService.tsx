import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field, Input } from "@/ui/Field";
import { ErrorTold, Fetching } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

import { SecretTold } from "./ConnectionFlow";

type Asks = readonly Schemas["AccessAsk"][];

function AskFields({
  asks,
  values,
  problem,
  keep,
  onChange,
}: {
  asks: Asks;
  values: Record<string, string>;
  problem: Problem | null;
  keep?: boolean;
  onChange: (values: Record<string, string>) => void;
}) {
  return asks.map((ask) => (
    <Field
      key={ask.key}
      label={ask.label}
      error={problem?.fieldError(ask.key)}
      hint={[keep ? "Left empty, it stays." : null, ask.hint, ask.secret ? "Kept encrypted, and shown to nobody." : null]
        .filter(Boolean)
        .join(" ")}
    >
      {(ids) => (
        <Input
          {...ids}
          type={ask.secret ? "password" : "text"}
          autoComplete="off"
          value={values[ask.key] ?? ""}
          onChange={(e) => onChange({ ...values, [ask.key]: e.target.value })}
        />
      )}
    </Field>
  ));
}

/** Connecting a service: what it asks for, with the way to get it beside. */
export function ConnectService({ client, clientName }: { client: string; clientName: string }) {
  // A mend's link says which service is wanted.
  const wanted = useSearchParams()[0].get("connect");
  const [open, setOpen] = useState(wanted !== null);
  const [kind, setKind] = useState<string | null>(wanted);
  const [name, setName] = useState("");
  const [values, setValues] = useState<Record<string, string>>({});
  const services = useQuery({
    queryKey: ["services"],
    queryFn: () => unwrap(api.GET("/api/connections/services")),
    enabled: open,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const card = services.data?.services.find((s) => s.kind === kind);
  const connect = useAct(() => unwrap(api.POST("/api/connections", { body: { client, kind, name, values } })), ["connections"]);
  const problem = connect.error instanceof Problem ? connect.error : null;
  const close = () => {
    setKind(null);
    setOpen(false);
    connect.reset();
  };
  if (connect.data?.secret) return <SecretTold secret={connect.data.secret} done={close} />;
  if (!open) return <Button onClick={() => setOpen(true)}>Connect a service</Button>;
  return (
    <Box flex="1 1 100%" borderWidth="1px" borderColor="line" borderRadius="sm" bg="card" p="4">
      <Box display="flex" alignItems="baseline" mb="3">
        <Box as="h3" fontWeight={600}>
          Connect a service for {clientName}
        </Box>
        <Button look="quiet" ml="auto" onClick={() => setOpen(false)}>
          Close
        </Button>
      </Box>
      {services.isPending && <Fetching what="services" />}
      {services.error && <ErrorTold error={services.error} again={() => void services.refetch()} />}
      <Box role="radiogroup" aria-label="Service" display="flex" gap="2" flexWrap="wrap" mb="4">
        {services.data?.services.map((s) => (
          <Button
            key={s.kind}
            role="radio"
            aria-checked={s.kind === kind}
            look={s.kind === kind ? "plain" : "soft"}
            onClick={() => {
              setKind(s.kind);
              setValues({});
              connect.reset();
            }}
          >
            {s.name}
          </Button>
        ))}
      </Box>
      {card && (
        <Box display="grid" gridTemplateColumns={{ base: "1fr", md: "minmax(0, 460px) minmax(0, 1fr)" }} gap="6">
          <chakra.form
            onSubmit={(e) => {
              e.preventDefault();
              connect.mutate(undefined, { onSuccess: (made) => !made.secret && close() });
            }}
          >
            <Field
              label="Name of your own"
              hint={`Where there are two, they are told apart by it. Empty: ${card.name}.`}
              error={problem?.fieldError("name")}
            >
              {(ids) => <Input {...ids} value={name} maxLength={80} onChange={(e) => setName(e.target.value)} />}
            </Field>
            <AskFields asks={card.asks} values={values} problem={problem} onChange={setValues} />
            <Button type="submit" disabled={connect.isPending}>
              {connect.isPending ? "Asking …" : "Try it and keep it"}
            </Button>
            {connect.error && !problem?.more.errors && <ErrorTold error={connect.error} />}
          </chakra.form>
          <Box fontSize="14px">
            <Box mb="2">
              {card.name}: {card.what}.
            </Box>
            <Box as="ol" pl="5" css={{ listStyle: "decimal" }} mb="3">
              {card.guide.map((g) => (
                <Box as="li" key={g} mb="1">
                  {g}
                </Box>
              ))}
            </Box>
            {card.permissions.length > 0 && (
              <>
                <Box fontWeight={600}>What it must be allowed there</Box>
                <Box as="ul" pl="5" css={{ listStyle: "square" }}>
                  {card.permissions.map((p) => (
                    <Box as="li" key={p.key}>
                      {p.name}; without it {p.without}
                    </Box>
                  ))}
                </Box>
              </>
            )}
          </Box>
        </Box>
      )}
    </Box>
  );
}

/** Giving a connection another address or key. Fuses stay as they are. */
export function AccessForm({ connection, done }: { connection: Schemas["ConnectionRow"]; done: () => void }) {
  const [values, setValues] = useState<Record<string, string>>({});
  const replace = useAct(
    () =>
      unwrap(api.PUT("/api/connections/{connectionId}/access", { params: { path: { connectionId: connection.id } }, body: { values } })),
    ["connections"],
  );
  const problem = replace.error instanceof Problem ? replace.error : null;
  return (
    <chakra.form
      onSubmit={(e) => {
        e.preventDefault();
        replace.mutate(undefined, { onSuccess: done });
      }}
    >
      <AskFields asks={connection.asks} values={values} problem={problem} keep onChange={setValues} />
      <Box display="flex" gap="3">
        <Button type="submit" disabled={replace.isPending || Object.values(values).every((v) => v.trim() === "")}>
          Try it and use it from now on
        </Button>
        <Button type="button" look="quiet" onClick={done}>
          Leave it
        </Button>
      </Box>
      {replace.error && !problem?.more.errors && <ErrorTold error={replace.error} />}
    </chakra.form>
  );
}
