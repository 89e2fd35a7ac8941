import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { Field, Input, Select } from "@/ui/Field";
import { PageHead, SectionHead } from "@/ui/Page";
import { ErrorTold, Fetching } from "@/ui/Told";
import { useAct } from "@/ui/useAct";
import { UploadFile } from "./UploadFile";
import { backWord } from "./words";

export const useKinds = () =>
  useQuery({ queryKey: ["source-kinds"], staleTime: Number.POSITIVE_INFINITY, queryFn: () => unwrap(api.GET("/api/source-kinds")) });

/** The ways in, as sentences to choose from. */
export function NewSourcePage() {
  const chosen = useChosenClient();
  const kinds = useKinds();
  const [search] = useSearchParams();
  const back = backWord(search.get("told"));
  const to = (kind: string) => withClient(kind === "hand" ? "/leads/new" : kind === "api" ? "/setup" : `/sources/new/${kind}`, chosen?.key);
  return (
    <Box p={{ base: "3", md: "5" }} pt="4" maxW="860px">
      <PageHead title="Where do the leads come from?" />
      {back && <BackTold back={back} />}
      {kinds.error && <ErrorTold error={kinds.error} again={() => void kinds.refetch()} />}
      {kinds.isPending && <Fetching what="the ways in" />}
      <Box as="ul" listStyleType="none">
        {kinds.data?.kinds.map((k) => (
          <Box
            as="li"
            key={k.kind}
            borderBottomWidth="1px"
            borderColor="line2"
            py="3"
            display="grid"
            gridTemplateColumns={{ base: "1fr", md: "170px 1fr" }}
            columnGap="5"
            _hover={{ bg: "card" }}
          >
            <chakra.span fontWeight={700} fontSize="16px" _hover={{ textDecoration: "underline" }}>
              <Link to={to(k.kind)}>{k.name}</Link>
            </chakra.span>
            <Box>
              <Box>{k.what}.</Box>
              <Box color="ink2" fontSize="14px">
                {k.arrives}
              </Box>
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

export function BackTold({ back }: { back: { said: string; good: boolean } }) {
  return (
    <Box role="status" borderLeftWidth="4px" borderColor={back.good ? "verdigris" : "cinder"} bg="card" p="3" mb="4">
      {back.said}
    </Box>
  );
}

/** Connecting one kind: the fields, and the guide beside them. */
export function ConnectPage() {
  const { kind = "" } = useParams();
  const kinds = useKinds();
  const card = kinds.data?.kinds.find((k) => k.kind === kind);
  const [search] = useSearchParams();
  const back = backWord(search.get("told"));
  if (kinds.isPending)
    return (
      <Box p="5">
        <Fetching what="the way in" />
      </Box>
    );
  if (!card)
    return (
      <Box p="5">
        <PageHead title="Connect a source" />
        <Link to="/sources/new">
          <u>There is no way in by that name: see those there are.</u>
        </Link>
      </Box>
    );
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead
        title={card.kind === "file" ? "Import a file of leads" : `Connect ${card.name === "A website" ? "a website" : card.name}`}
        beside={card.arrives}
      />
      {back && <BackTold back={back} />}
      <Box display="grid" gridTemplateColumns={{ base: "1fr", lg: "minmax(0, 460px) minmax(0, 1fr)" }} gap="10">
        <ConnectForm card={card} />
        <Guide card={card} />
      </Box>
    </Box>
  );
}

export function Guide({ card }: { card: Schemas["SourceKindCard"] }) {
  return (
    <Box>
      <SectionHead>How to get access</SectionHead>
      <chakra.ol listStyleType="none">
        {card.guide.map((step, i) => (
          <Box as="li" key={step} display="flex" gap="3" mb="3">
            <Box fontFamily="mono" fontSize="13px" color="ink2" pt="2px">
              {i + 1}
            </Box>
            <Box>{step}</Box>
          </Box>
        ))}
      </chakra.ol>
      {card.permissions.length > 0 && (
        <>
          <SectionHead mt="5">What it is allowed, and why</SectionHead>
          {card.permissions.map((p) => (
            <Box key={p.key} fontSize="14px" mb="2">
              <b>{p.name}</b>
              <Box color="ink2">without it {p.without}</Box>
            </Box>
          ))}
        </>
      )}
    </Box>
  );
}

function ConnectForm({ card }: { card: Schemas["SourceKindCard"] }) {
  const person = usePerson();
  const chosen = useChosenClient();
  const navigate = useNavigate();
  const mine = person.clients.filter((c) => c.may.includes("edit-sources"));
  const [client, setClient] = useState(chosen?.key ?? (mine.length === 1 ? (mine[0]?.key ?? "") : ""));
  const [name, setName] = useState("");
  const consent = useAct(() => unwrap(api.POST("/api/connections/consent", { body: { client, kind: card.kind, connectionId: null } })));
  const make = useAct(() => unwrap(api.POST("/api/sources", { body: { client, kind: card.kind, name } })), ["sources"]);
  const error = consent.error ?? make.error;
  const connect = async () => {
    if (card.access === "consent") {
      const { goTo } = await consent.mutateAsync();
      window.location.assign(goTo);
      return;
    }
    const { id } = await make.mutateAsync();
    void navigate(withClient(`/sources/from/${id}`, chosen?.key));
  };
  return (
    <chakra.form
      onSubmit={(e) => {
        e.preventDefault();
        connect().catch(() => undefined);
      }}
    >
      <Field label="For which client" error={error instanceof Problem ? error.fieldError("client") : null}>
        {(ids) => (
          <Select {...ids} value={client} onChange={(e) => setClient(e.target.value)} required>
            <option value="">Choose…</option>
            {mine.map((c) => (
              <option key={c.key} value={c.key}>
                {c.name}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {card.kind === "file" ? (
        <UploadFile client={client} />
      ) : (
        <>
          {card.access !== "consent" && (
            <Field
              label="What do you call it"
              hint={card.kind === "website" ? "Its host name is a good name." : undefined}
              error={error instanceof Problem ? error.fieldError("name") : null}
            >
              {(ids) => (
                <Input
                  {...ids}
                  value={name}
                  onChange={(e) => setName(e.target.value)}
                  placeholder={card.kind === "website" ? "rides.example.com" : card.name}
                />
              )}
            </Field>
          )}
          <Button look="primary" type="submit" disabled={consent.isPending || make.isPending || !client}>
            {card.access === "consent" ? `Connect ${card.name}` : "Make it"}
          </Button>
          {card.access === "consent" && (
            <Box fontSize="13px" color="ink2" mt="2">
              You go to {card.name}'s own page to consent, and come back here.
            </Box>
          )}
          {error && !(error instanceof Problem && error.fieldError("client")) && <ErrorTold error={error} />}
        </>
      )}
    </chakra.form>
  );
}
