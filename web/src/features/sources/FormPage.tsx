import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { usePerson } from "@/app/useSession";
import { LinePart } from "@/features/continuity/LinePart";
import { useAt } from "@/features/continuity/useAt";
import { Button } from "@/ui/Button";
import { PageHead, SectionHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { Empty, ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { Gates } from "./Gates";
import { HowToSend } from "./HowToSend";
import { MapTable } from "./MapTable";
import { PickPanel } from "./PickPanel";
import { Sample } from "./Sample";
import { toLookAt } from "./words";

/** One form: its fields and where they go, how it is put on a page, and what came. */
export function FormPage() {
  const { formId = "" } = useParams();
  const form = useQuery({
    queryKey: ["form", formId],
    queryFn: () => unwrap(api.GET("/api/forms/{formId}", { params: { path: { formId } } })),
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

function WholeForm({ whole }: { whole: Schemas["FormDetail"] }) {
  const { form } = whole;
  const person = usePerson();
  const now = useNow(5000);
  const client = person.clients.find((c) => c.id === form.clientId);
  const zone = client?.zone ?? "UTC";
  const may = client?.may.includes("edit-sources") ?? false;
  const chosen = useChosenClient();
  useAt(true);
  const [sampleId, setSampleId] = useState<string | null>(null);
  const sample = whole.samples.find((s) => s.id === sampleId) ?? whole.samples[0];
  const given = new Map(sample?.answers.map((a) => [a.question, a.answer]));
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <Head whole={whole} may={may} />
      <LinePart formId={form.id} may={may} zone={zone} now={now} clientKey={chosen?.key} />
      <Box display="grid" gridTemplateColumns={{ base: "1fr", xl: "minmax(0, 1.25fr) minmax(0, 1fr)" }} gap="8">
        <Box minW="0">
          <Figures whole={whole} />
          {form.sourceKind === "hook" && sample && <PickPanel whole={whole} sample={sample} may={may} />}
          <MapTable whole={whole} given={given} may={may} zone={zone} now={now} />
          <Gates whole={whole} may={may} />
          {whole.takesPosts && (
            <Box id="ways">
              <HowToSend whole={whole} may={may} />
            </Box>
          )}
          {whole.news.length > 0 && (
            <Box mt="6">
              <SectionHead>Found about it</SectionHead>
              {whole.news.map((n) => (
                <Box key={`${n.at}${n.words}`} fontSize="14px" display="grid" gridTemplateColumns="130px 1fr" gap="3" mb="1">
                  <Box fontFamily="mono" fontSize="13px" color="ink2">
                    {dayAndClock(n.at, now, zone)}
                  </Box>
                  <Box>{n.words}</Box>
                </Box>
              ))}
            </Box>
          )}
        </Box>
        <Box minW="0">
          <SectionHead>What came, newest first</SectionHead>
          {whole.samples.length === 0 && (
            <Empty said="Nothing has come yet.">Send the form once, or a test lead: it stands here as it came.</Empty>
          )}
          <Box as="ul" listStyleType="none">
            {whole.samples.map((s) => (
              <Sample
                key={s.id}
                sample={s}
                shown={s.id === sample?.id}
                onShow={() => setSampleId(s.id)}
                time={dayAndClock(s.receivedAt, now, zone, true)}
                zone={zone}
                now={now}
              />
            ))}
          </Box>
        </Box>
      </Box>
    </Box>
  );
}

function Head({ whole, may }: { whole: Schemas["FormDetail"]; may: boolean }) {
  const { form } = whole;
  const chosen = useChosenClient();
  const navigate = useNavigate();
  const path = { params: { path: { formId: form.id } } };
  const stale: string[][] = [["form", form.id], ["forms"], ["sources"]];
  const pause = useAct(
    () => unwrap(form.state === "paused" ? api.POST("/api/forms/{formId}/resume", path) : api.POST("/api/forms/{formId}/pause", path)),
    ...stale,
  );
  const choose = useAct(() => unwrap(api.POST("/api/forms/{formId}/choose", path)), ...stale);
  const test = useAct(
    (onlyMe: boolean) => unwrap(api.POST("/api/forms/{formId}/test-lead", { params: { ...path.params, query: { onlyMe } } })),
    ...stale,
  );
  const again = useAct(() => unwrap(api.POST("/api/forms/{formId}/read-again", path)), ...stale);
  const copy = useAct(() => unwrap(api.POST("/api/forms/{formId}/copy", path)), ...stale);
  const copyIt = async () => void navigate(withClient(`/sources/${(await copy.mutateAsync()).id}/build`, chosen?.key));
  const error = pause.error ?? choose.error ?? test.error ?? again.error ?? copy.error;
  return (
    <>
      <PageHead
        title={form.name}
        beside={[form.client, form.source, form.place, `${form.submissions.toLocaleString("en-GB")} submissions`]
          .filter(Boolean)
          .join(" · ")}
      >
        {whole.pageUrl && (
          <Button look="soft" asChild>
            <a href={whole.pageUrl} target="_blank" rel="noreferrer">
              Open its page
            </a>
          </Button>
        )}
        {may && form.built && (
          <>
            <Button look="soft" disabled={copy.isPending} onClick={() => void copyIt().catch(() => undefined)}>
              Copy it
            </Button>
            <Button asChild>
              <Link to={withClient(`/sources/${form.id}/build`, chosen?.key)}>Build</Link>
            </Button>
          </>
        )}
        {may && form.state === "offered" && (
          <Button
            look="primary"
            disabled={choose.isPending}
            onClick={() => choose.mutate(undefined, { onSuccess: () => void navigate(withClient(`/sources/${form.id}/map`, chosen?.key)) })}
          >
            Choose this form
          </Button>
        )}
        {may && form.state !== "offered" && (
          <>
            <Button disabled={pause.isPending} onClick={() => pause.mutate()}>
              {form.state === "paused" ? "Resume" : "Pause"}
            </Button>
            <Button disabled={test.isPending} onClick={() => test.mutate(false)}>
              Send a test lead
            </Button>
            <Button look="soft" disabled={test.isPending} onClick={() => test.mutate(true)}>
              Only to me
            </Button>
          </>
        )}
      </PageHead>
      <Box display="flex" gap="2" flexWrap="wrap" mb="3" alignItems="center" fontSize="14px">
        {toLookAt(form).map((l) => (
          <State key={l.word} of={l.of}>
            {l.word}
          </State>
        ))}
        {form.state === "paused" && <Box color="ink2">What it sends is kept, and acted on in order when you resume.</Box>}
        {may && form.unreadable > 0 && (
          <Button size="small" look="soft" disabled={again.isPending} onClick={() => again.mutate()}>
            Read the unreadable again
          </Button>
        )}
        {again.data && <Box role="status">{again.data.submissions} read again.</Box>}
        {test.data && (
          <Box role="status">
            A test lead is on its way: {test.data.answers[0]?.answer}. It is marked as a test everywhere and counts in no figure.
          </Box>
        )}
      </Box>
      {error && <ErrorTold error={error} />}
    </>
  );
}

/** What of those who saw it began, and sent; empty visits where answers should have come. */
function Figures({ whole }: { whole: Schemas["FormDetail"] }) {
  const { figures } = whole;
  const passes = figures.emptyVisits + figures.passedThrough;
  const share = (n: number, of: number) => (of === 0 ? "–" : `${Math.round((n / of) * 100)} %`);
  return (
    <>
      {figures.views > 0 && (
        <Box mb="5" fontSize="14px">
          <SectionHead>Who finishes it, in thirty days</SectionHead>
          <Box display="flex" alignItems="center" gap="3" flexWrap="wrap">
            <Funnel views={figures.views} starts={figures.starts} sends={figures.sends} />
            <Box>
              <b>{share(figures.sends, figures.views)}</b> of {figures.views.toLocaleString("en-GB")} who saw it sent it;{" "}
              {share(figures.starts, figures.views)} began. It asks <b>{figures.fields}</b> {figures.fields === 1 ? "thing" : "things"}.
            </Box>
          </Box>
        </Box>
      )}
      {figures.emptyVisits > 0 && (
        <Box borderLeftWidth="4px" borderColor="cinder" bg="card" p="3" mb="5" role="alert">
          <b>
            {figures.emptyVisits} of {passes} {passes === 1 ? "visit" : "visits"} came without answers.
          </b>
          <Box color="ink2">
            The form tool sends the visitor on and has left the answers out of the address. In its settings for after sending, tick that the
            answers go along.
          </Box>
        </Box>
      )}
    </>
  );
}

function Funnel({ views, starts, sends }: { views: number; starts: number; sends: number }) {
  const x = (n: number) => 4 + (n / Math.max(1, views)) * 212;
  return (
    <svg width="220" height="22" role="img" aria-label={`${views} saw it, ${starts} began, ${sends} sent it`}>
      <line x1="4" y1="11" x2="216" y2="11" stroke="var(--chakra-colors-line)" strokeWidth="2" />
      <line x1="4" y1="11" x2={x(starts)} y2="11" stroke="var(--chakra-colors-slate)" strokeWidth="2" />
      <line x1="4" y1="11" x2={x(sends)} y2="11" stroke="var(--chakra-colors-ink)" strokeWidth="4" />
      <path d={`M${x(sends) - 6} 11l6 -6l6 6l-6 6z`} fill="var(--chakra-colors-sulphur)" stroke="var(--chakra-colors-ink)" />
      <line x1={x(starts)} y1="5" x2={x(starts)} y2="17" stroke="var(--chakra-colors-slate)" strokeWidth="2" />
    </svg>
  );
}
