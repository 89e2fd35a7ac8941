import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Schemas, told } from "@/api/client";
import { usePerson } from "@/features/accounts/useSession";
import { Button } from "@/ui/Button";
import { PageHead, SectionHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { MapState } from "./SourcesPage";

/** One form: its fields and where they go, how it is put on a page, and what came. */
export function FormPage() {
  const { formId = "" } = useParams();
  const form = useQuery({
    queryKey: ["form", formId],
    queryFn: () => told(api.GET("/api/forms/{formId}", { params: { path: { formId } } })),
  });
  if (form.error) {
    return (
      <Box p="5">
        <PageHead title="Form" />
        <ErrorTold error={form.error} again={() => void form.refetch()} />
      </Box>
    );
  }
  return form.data ? (
    <WholeForm key={formId} whole={form.data} />
  ) : (
    <Box p="5">
      <Fetching what="the form" />
    </Box>
  );
}

function WholeForm({ whole }: { whole: Schemas["FormWhole"] }) {
  const person = usePerson();
  const now = useNow(5000);
  const zone = person.clients.find((c) => c.id === whole.form.clientId)?.zone ?? "UTC";
  const [sampleId, setSampleId] = useState<string | null>(null);
  const sample = whole.samples.find((s) => s.id === sampleId) ?? whole.samples.find((s) => s.status === "processed") ?? whole.samples[0];
  const given = new Map(sample?.answers.map((a) => [a.question, a.answer]));
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead
        title={whole.form.name}
        beside={`${whole.form.client} · ${whole.form.source} · ${whole.form.submissions.toLocaleString("en-GB")} submissions`}
      >
        {whole.pageUrl && (
          <Button look="soft" asChild>
            <a href={whole.pageUrl} target="_blank" rel="noreferrer">
              Open its page
            </a>
          </Button>
        )}
      </PageHead>
      <Box display="grid" gridTemplateColumns={{ base: "1fr", xl: "minmax(0, 1.25fr) minmax(0, 1fr)" }} gap="8">
        <Box minW="0">
          <SectionHead>
            Field map <MapState map={whole.form.map} />{" "}
            <Box as="span" fontWeight={400} color="ink2" fontSize="13px">
              {whole.mapVersion && `version ${whole.mapVersion}`}
              {whole.confirmedBy && whole.confirmedAt && `, by ${whole.confirmedBy} ${dayAndClock(whole.confirmedAt, now, zone)}`}
            </Box>
          </SectionHead>
          <chakra.table width="full" fontSize="14px" borderCollapse="collapse">
            <thead>
              <chakra.tr borderBottomWidth="1px" fontSize="13px" color="ink2">
                {["the form asks", "as", "goes to", "in the sample"].map((h) => (
                  <chakra.th key={h} textAlign="left" fontWeight={400} pb="1" pr="3">
                    {h}
                  </chakra.th>
                ))}
              </chakra.tr>
            </thead>
            <tbody>
              {whole.fields.map((f) => (
                <chakra.tr key={f.name} borderBottomWidth="1px" borderColor="line2" verticalAlign="baseline">
                  <chakra.td py="6px" pr="3">
                    {f.label}
                    {f.required && (
                      <Box as="span" color="ink2" fontSize="12px">
                        {" "}
                        must
                      </Box>
                    )}
                  </chakra.td>
                  <chakra.td pr="3" fontFamily="mono" fontSize="12px" color="ink2">
                    {f.name}
                  </chakra.td>
                  <chakra.td pr="3" fontWeight={600}>
                    {f.leadField?.replaceAll("_", " ") ?? "kept under its own name"}
                  </chakra.td>
                  <chakra.td pr="3" overflowWrap="anywhere">
                    {given.get(f.name) ?? (
                      <Box as="span" color="ink2">
                        –
                      </Box>
                    )}
                  </chakra.td>
                </chakra.tr>
              ))}
            </tbody>
          </chakra.table>
          <HowToSend whole={whole} />
        </Box>
        <Box minW="0">
          <SectionHead>What came, newest first</SectionHead>
          {whole.samples.length === 0 && (
            <Empty said="Nothing has come yet.">Send the form once: the submission stands here as it came.</Empty>
          )}
          <Box as="ul" listStyleType="none">
            {whole.samples.map((s) => (
              <Sample
                key={s.id}
                sample={s}
                shown={s.id === sample?.id}
                onShow={() => setSampleId(s.id)}
                time={dayAndClock(s.receivedAt, now, zone, true)}
              />
            ))}
          </Box>
        </Box>
      </Box>
    </Box>
  );
}

const statusWords = {
  received: "being read",
  processed: "became a lead",
  waiting: "waits",
  unreadable: "unreadable",
  stuck: "stuck",
} as const;

function Sample({ sample, shown, onShow, time }: { sample: Schemas["FormSample"]; shown: boolean; onShow: () => void; time: string }) {
  const bad = sample.status === "unreadable" || sample.status === "stuck";
  return (
    <Box
      as="li"
      borderBottomWidth="1px"
      borderColor="line2"
      py="2"
      borderLeftWidth="3px"
      pl="3"
      borderLeftColor={shown ? "ink" : "transparent"}
    >
      <Box display="flex" gap="3" alignItems="center" flexWrap="wrap">
        <Box fontFamily="mono" fontSize="13px">
          {time}
        </Box>
        <State of={bad ? "broken" : sample.status === "processed" ? "whole" : "waiting"}>{statusWords[sample.status]}</State>
        {sample.leadId && (
          <Link to={`/leads/${sample.leadId}`}>
            <u>the lead</u>
          </Link>
        )}
        {!shown && (
          <Button look="quiet" fontSize="13px" onClick={onShow} aria-label={`Show the submission of ${time}`}>
            show
          </Button>
        )}
      </Box>
      {sample.reason && (
        <Box fontSize="13px" color={bad ? "cinder" : "ink2"}>
          {sample.reason}
        </Box>
      )}
      {shown && (
        <>
          <Box fontSize="12px" color="ink2" mt="1">
            as it came, {sample.contentType || "no content type"}
          </Box>
          <Raw text={sample.raw} />
        </>
      )}
    </Box>
  );
}

const Raw = ({ text }: { text: string }) => (
  <chakra.pre
    tabIndex={0}
    role="group"
    aria-label="Text as it is"
    fontFamily="mono"
    fontSize="12px"
    whiteSpace="pre-wrap"
    overflowWrap="anywhere"
    maxH="260px"
    overflowY="auto"
    bg="card"
    borderWidth="1px"
    borderColor="line2"
    borderRadius="sm"
    p="2"
  >
    {text}
  </chakra.pre>
);

function HowToSend({ whole }: { whole: Schemas["FormWhole"] }) {
  return (
    <Box mt="6">
      <SectionHead>On a page of yours</SectionHead>
      <Box fontSize="14px" mb="2">
        Paste this where the form belongs. It works with scripts switched off; visitors land{" "}
        {whole.thankYouUrl ? "on " : "on a plain thank-you page."}
        {whole.thankYouUrl && <u>{whole.thankYouUrl}</u>}
      </Box>
      <Raw text={whole.snippet} />
      <Copy text={whole.snippet} label="Copy the form" />
      <SectionHead mt="5">From a program</SectionHead>
      <Box fontSize="14px" mb="1">
        Post JSON with the names above as keys, and an <code>id</code> of your own, to:
      </Box>
      <Raw text={whole.postTo} />
      <Copy text={whole.postTo} label="Copy the address" />
    </Box>
  );
}

function Copy({ text, label }: { text: string; label: string }) {
  const [said, setSaid] = useState("");
  const copy = () =>
    navigator.clipboard.writeText(text).then(
      () => setSaid("copied"),
      () => setSaid("the browser did not allow it; select the text and copy it by hand"),
    );
  return (
    <Box display="flex" gap="3" alignItems="center" mt="2">
      <Button size="small" onClick={() => void copy()}>
        {label}
      </Button>
      <Box role="status" fontSize="13px" color="ink2">
        {said}
      </Box>
    </Box>
  );
}
