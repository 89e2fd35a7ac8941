import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { usePerson } from "@/app/useSession";
import { MiniLine } from "@/features/continuity/JointLine";
import { lineWord } from "@/features/continuity/lineWords";
import { useLines } from "@/features/continuity/useLines";
import { Button } from "@/ui/Button";
import { PageHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { secondsBetween, span } from "@/ui/time";
import { DayMarks, WayLine } from "./WayLine";
import { accessWord, toLookAt } from "./words";

/** Where leads come from: each source as a sentence, its forms below with what they sent and how late. */
export function SourcesPage() {
  const chosen = useChosenClient();
  const person = usePerson();
  const sources = useQuery({
    queryKey: ["sources", chosen?.key ?? ""],
    queryFn: () => unwrap(api.GET("/api/sources", { params: { query: { client: chosen?.key } } })),
  });
  const may = person.clients.some((c) => c.may.includes("edit-sources"));
  const lines = useLines({ client: chosen?.key });
  const rows = [...(sources.data?.sources ?? [])].sort((a, b) => a.client.localeCompare(b.client) || b.forms.length - a.forms.length);
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead title="Sources" beside="every place a lead comes from">
        {may && (
          <Button look="primary" asChild>
            <Link to={withClient("/sources/new", chosen?.key)}>Connect a source</Link>
          </Button>
        )}
      </PageHead>
      {sources.error && <ErrorTold error={sources.error} again={() => void sources.refetch()} />}
      {sources.isPending && <Fetching what="sources" />}
      {sources.data && rows.length === 0 && (
        <Empty said="No source is connected yet.">
          An ad network, a website, a form tool, a program or a file:{" "}
          <Link to={withClient("/sources/new", chosen?.key)}>
            <u>connect the first</u>
          </Link>
          .
        </Empty>
      )}
      {rows.length > 0 && <Captions />}
      {rows.map((source) => (
        <SourceBlock
          key={source.id}
          source={source}
          lines={lines.data?.lines}
          showClient={!chosen && person.clients.length > 1}
          clientKey={chosen?.key}
        />
      ))}
    </Box>
  );
}

const columns = { base: "1fr auto", md: "minmax(180px, 1.5fr) 110px 96px 160px minmax(226px, 1fr)" };

// On a source's own page the line has the place of the time under way, which is told there in full.
const narrowColumns = { base: "1fr auto", md: "minmax(150px, 1.4fr) 102px 88px minmax(220px, 1fr)" };

const captions = ["", "fourteen days", "the last one", "under way", "the line, from there to the phone"];

/** What the columns of the lines below are. */
const Captions = () => (
  <Box
    display={{ base: "none", md: "grid" }}
    gridTemplateColumns={columns}
    columnGap="4"
    fontSize="13px"
    color="ink2"
    aria-hidden="true"
    mb="-5px"
  >
    {captions.map((c, i) => (
      // biome-ignore lint/suspicious/noArrayIndexKey: a column is its place
      <Box key={i}>{c}</Box>
    ))}
  </Box>
);

function SourceBlock({
  source,
  lines,
  showClient,
  clientKey,
}: {
  source: Schemas["SourceRow"];
  lines: readonly Schemas["LineRow"][] | undefined;
  showClient: boolean;
  clientKey: string | undefined;
}) {
  const access = accessWord(source.access);
  const forms = source.kind === "file" ? source.forms.slice(0, 5) : source.forms;
  return (
    <Box as="section" mb="6" aria-label={source.name}>
      <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap" borderBottomWidth="1px" borderColor="ink" pb="1">
        <chakra.h2 fontSize="16px" fontWeight={700} _hover={{ textDecoration: "underline" }}>
          <Link to={withClient(`/sources/from/${source.id}`, clientKey)}>{source.name}</Link>
        </chakra.h2>
        {showClient && (
          <Box fontSize="13px" color="ink2">
            {source.client}
          </Box>
        )}
        {access && <State of={access.of}>{access.word}</State>}
        {source.refusals > 0 && <State of="broken">{source.refusals} refused today</State>}
        {source.offered > 0 && source.kind !== "file" && (
          <Box ml="auto" fontSize="13px">
            <Link to={withClient(`/sources/from/${source.id}`, clientKey)}>
              <u>
                {source.offered} more {source.offered === 1 ? "form" : "forms"} to choose from
              </u>
            </Link>
          </Box>
        )}
      </Box>
      {source.fault && (
        <Box color="cinder" fontSize="14px" py="1">
          {source.fault}
        </Box>
      )}
      {forms.length === 0 && (
        <Box fontSize="14px" color="ink2" py="2">
          No form of it is chosen.{" "}
          <Link to={withClient(`/sources/from/${source.id}`, clientKey)}>
            <u>Choose or make one</u>
          </Link>
        </Box>
      )}
      {forms.map((form) => (
        <FormLine key={form.id} form={form} line={lines?.find((l) => l.formId === form.id)} clientKey={clientKey} />
      ))}
      {source.forms.length > forms.length && (
        <Box fontSize="13px" pt="1">
          <Link to={withClient(`/sources/from/${source.id}`, clientKey)}>
            <u>all {source.forms.length} files</u>
          </Link>
        </Box>
      )}
    </Box>
  );
}

/** One form: what it sent lately, when the last came, how late, and what there is to look at. */
export function FormLine({
  form,
  line,
  clientKey,
  narrow,
}: {
  narrow?: boolean;
  form: Schemas["FormRow"];
  line: Schemas["LineRow"] | undefined;
  clientKey: string | undefined;
}) {
  const now = useNow(10_000);
  const look = toLookAt(form);
  return (
    <Box
      display="grid"
      gridTemplateColumns={narrow ? narrowColumns : columns}
      columnGap="4"
      alignItems="center"
      minH="40px"
      borderBottomWidth="1px"
      borderColor="line2"
      _hover={{ bg: "card" }}
    >
      <Box minW="0" truncate>
        <chakra.span fontWeight={600} _hover={{ textDecoration: "underline" }}>
          <Link to={withClient(`/sources/${form.id}`, clientKey)}>{form.name}</Link>
        </chakra.span>
        {form.place && (
          <Box as="span" color="ink2" fontSize="13px" ml="2">
            {form.place}
          </Box>
        )}
      </Box>
      <Box display={{ base: "none", md: "block" }}>
        <DayMarks days={form.days} />
      </Box>
      <Box fontFamily="mono" fontSize="13px" whiteSpace="nowrap">
        {form.lastAt ? `${span(secondsBetween(form.lastAt, now))} ago` : "none yet"}
      </Box>
      {!narrow && <Box display={{ base: "none", md: "block" }}>{form.lastAt && <WayLine late={form.lateSeconds} />}</Box>}
      <Box display="flex" gap="1" rowGap="0.5" alignItems="center" flexWrap="wrap" gridColumn={{ base: "1 / -1", md: "auto" }} py="1">
        {line && (
          <Box asChild>
            <Link to={withClient(`/sources/${form.id}`, clientKey)}>
              <MiniLine line={line} width={130} />
            </Link>
          </Box>
        )}
        {line && (
          <State of={line.restsSince ? "plain" : lineWord[line.state].of}>{line.restsSince ? "rests" : lineWord[line.state].word}</State>
        )}
        {look.map((l) => (
          <State key={l.word} of={l.of}>
            {l.word}
          </State>
        ))}
      </Box>
    </Box>
  );
}
