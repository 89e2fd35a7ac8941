import { Box } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { Button } from "@/ui/Button";
import { PageHead, SectionHead, State } from "@/ui/Page";
import { ErrorTold, Fetching } from "@/ui/Told";
import { useAct } from "@/ui/useAct";
import { AroundPart, EndingPart, OpeningPart } from "./DesignParts";
import type { Design } from "./design";
import { FieldsPart } from "./FieldsPart";

/** Building a form: what it asks on the left, what visitors see on the right; saved as one types. */
export function FormBuilderPage() {
  const { formId = "" } = useParams();
  const design = useQuery({
    queryKey: ["design", formId],
    queryFn: () => unwrap(api.GET("/api/forms/{formId}/design", { params: { path: { formId } } })),
  });
  if (design.error)
    return (
      <Box p="5">
        <PageHead title="Build a form" />
        <ErrorTold error={design.error} again={() => void design.refetch()} />
      </Box>
    );
  return design.data ? (
    <Builder key={formId} whole={design.data} />
  ) : (
    <Box p="5">
      <Fetching what="the form" />
    </Box>
  );
}

const saveAfterMs = 500;

function Builder({ whole }: { whole: Schemas["DesignDetail"] }) {
  const chosen = useChosenClient();
  const queries = useQueryClient();
  const path = { params: { path: { formId: whole.formId } } };
  const [design, setDesign] = useState<Design>(whole.draft);
  const [dirty, setDirty] = useState(false);
  const keep = (made: Schemas["DesignDetail"]) => queries.setQueryData(["design", whole.formId], made);
  const save = useAct((draft: Design) => unwrap(api.PUT("/api/forms/{formId}/design", { ...path, body: { draft } })).then(keep));
  const publish = useAct(
    () => unwrap(api.POST("/api/forms/{formId}/publish", path)).then(keep),
    ["form", whole.formId],
    ["sources"],
    ["forms"],
  );
  const latest = useRef(save.mutate);
  latest.current = save.mutate;
  useEffect(() => {
    if (!dirty) return;
    const timer = setTimeout(() => latest.current(design, { onSuccess: () => setDirty(false) }), saveAfterMs);
    return () => clearTimeout(timer);
  }, [design, dirty]);
  const change = (next: Design) => {
    setDesign(next);
    setDirty(true);
  };
  const publishNow = async () => {
    if (dirty) await save.mutateAsync(design);
    setDirty(false);
    await publish.mutateAsync();
  };
  const faults = whole.faults;
  const refused = publish.error instanceof Problem && publish.error.code === "cannot-publish";
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead
        title={whole.name}
        beside={
          <>
            <State of={whole.publishedAt && !whole.changed && !dirty ? "whole" : "waiting"}>
              {whole.publishedAt ? (whole.changed || dirty ? "changed since it was published" : "published") : "not published yet"}
            </State>{" "}
            {save.isPending || dirty ? "saving …" : "saved"}
          </>
        }
      >
        <Button look="soft" asChild>
          <Link to={withClient(`/sources/${whole.formId}`, chosen?.key)}>What came, and what to paste</Link>
        </Button>
        <Button
          look="primary"
          disabled={publish.isPending || faults.length > 0 || (whole.publishedAt !== null && !whole.changed && !dirty)}
          onClick={() => void publishNow().catch(() => undefined)}
        >
          {faults.length > 0 ? `${faults.length} missing` : "Publish"}
        </Button>
      </PageHead>
      {(save.error || (publish.error && !refused)) && <ErrorTold error={save.error ?? publish.error} />}
      {publish.isSuccess && !dirty && (
        <Box role="status" borderLeftWidth="4px" borderColor="verdigris" bg="card" p="3" mb="4">
          Published.{" "}
          <Link to={withClient(`/sources/${whole.formId}`, chosen?.key)}>
            <u>Take the piece to paste into your page.</u>
          </Link>
        </Box>
      )}
      <Box display="grid" gridTemplateColumns={{ base: "1fr", lg: "minmax(0, 1.2fr) minmax(0, 1fr)" }} gap="10">
        <Box minW="0">
          <Missing faults={faults} />
          <OpeningPart design={design} change={change} faults={faults} formId={whole.formId} />
          <FieldsPart design={design} change={change} faults={faults} tracked={whole.tracked} />
          <AroundPart design={design} change={change} faults={faults} />
          <EndingPart
            title="After sending"
            place="ending"
            ending={design.ending}
            change={(ending) => change({ ...design, ending })}
            faults={faults}
          />
          <EndingPart
            title="For somebody you know already"
            place="endingIfKnown"
            ending={design.endingIfKnown}
            optional
            change={(endingIfKnown) => change({ ...design, endingIfKnown })}
            faults={faults}
          />
        </Box>
        <Box minW="0">
          <Box position="sticky" top="64px">
            <SectionHead>As visitors see it</SectionHead>
            <Preview html={whole.preview} />
            <Box fontSize="13px" color="ink2" mt="2">
              Plain here: on a page of yours it takes the page's own look.
            </Box>
          </Box>
        </Box>
      </Box>
    </Box>
  );
}

function Missing({ faults }: { faults: readonly Schemas["DesignFault"][] }) {
  if (faults.length === 0) return null;
  return (
    <Box borderLeftWidth="4px" borderColor="cinder" bg="card" p="3" mb="5">
      <SectionHead>Missing before it can be published</SectionHead>
      <Box as="ul" listStyleType="none">
        {faults.map((f) => (
          <Box as="li" key={`${f.place}${f.what}`} fontSize="14px" mb="1">
            <a href={`#${f.place.replaceAll(".", "-")}`}>
              <u>{f.what}</u>
            </a>{" "}
            <Box as="span" color="ink2">
              {f.mend}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

const look = `<style>body{font:16px/1.5 system-ui,sans-serif;margin:16px;color:#1D2021;background:#fff}label,legend{display:block;font-weight:600;font-size:14px}fieldset{border:0;padding:0}fieldset label{font-weight:400}input,select,textarea{font:inherit;width:100%;box-sizing:border-box;padding:6px 8px;border:1px solid #56626C}input[type=checkbox],input[type=radio]{width:auto}button{font:inherit;font-weight:700;padding:6px 18px}img{max-width:100%}p{margin:10px 0}</style>`;

/** In a frame without scripts that can go nowhere: what a draft holds is only shown. */
const Preview = ({ html }: { html: string }) => (
  <Box asChild width="full" height="560px" borderWidth="1px" borderColor="line" bg="white">
    <iframe title="The form as visitors see it" sandbox="" srcDoc={look + html} />
  </Box>
);
