import { Box, chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { ToPaste } from "@/ui/Copy";
import { Field, Input, Select } from "@/ui/Field";
import { SectionHead } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";
import { useDraftOf } from "@/ui/useDraftOf";

/** The pieces to paste elsewhere, and where a visitor goes after sending. */
export function HowToSend({ whole, may }: { whole: Schemas["FormDetail"]; may: boolean }) {
  const { pieces, form } = whole;
  return (
    <Box mt="6">
      {pieces.script && (
        <>
          <SectionHead>On a page of yours: one of three</SectionHead>
          <Piece title="A script tag" said="The form appears where the tag stands, in the look of the page.">
            <ToPaste text={pieces.script} label="Copy the script tag" />
          </Piece>
          <Piece title="Plain HTML" said="Works with scripts switched off, and may be restyled at will.">
            <ToPaste text={pieces.html ?? ""} label="Copy the HTML" maxH="150px" />
          </Piece>
          <Piece title="A page that we host" said="For an advertisement that needs nothing but the form.">
            <ToPaste text={pieces.hosted ?? ""} label="Copy its address" />
          </Piece>
        </>
      )}
      {form.built && !pieces.script && <Box fontSize="14px">Publish the form first; then the pieces to paste stand here.</Box>}
      {pieces.capture && (
        <>
          <SectionHead>The page has a form already: one of two</SectionHead>
          <Piece title="Set its action" said="Its own names are kept, whatever they are. Files are named and not kept.">
            <ToPaste text={whole.postTo} label="Copy the address" />
          </Piece>
          <Piece
            title="Or add our script"
            said="It changes nothing on the page, and sends a copy of what is sent, with campaign values and the pages seen before."
          >
            <ToPaste text={pieces.capture} label="Copy the script" />
          </Piece>
        </>
      )}
      {pieces.passThrough && (
        <Piece
          title="Or send visitors through us"
          said="For tools that can only send the visitor on with the answers in the address. They go on to the thank-you address below."
        >
          <ToPaste text={pieces.passThrough} label="Copy the pass-through address" />
        </Piece>
      )}
      {!form.built && <Addresses whole={whole} may={may} />}
      {(form.sourceKind === "hook" || form.built) && (
        <>
          <SectionHead mt="5">From a program</SectionHead>
          <Box fontSize="14px" mb="1">
            Post JSON, with an <code>id</code> of its own where it has one, to:
          </Box>
          <ToPaste text={whole.postTo} label="Copy the address" />
        </>
      )}
      {may && form.sourceKind === "hook" && <Proof whole={whole} />}
    </Box>
  );
}

function Piece({ title, said, children }: { title: string; said: string; children: React.ReactNode }) {
  return (
    <Box mb="4">
      <Box fontWeight={600}>{title}</Box>
      <Box fontSize="14px" color="ink2" mb="1">
        {said}
      </Box>
      {children}
    </Box>
  );
}

function Addresses({ whole, may }: { whole: Schemas["FormDetail"]; may: boolean }) {
  const formId = whole.form.id;
  const { draft: thanks, setDraft: setThanks, changed } = useDraftOf(whole.thankYouUrl ?? "");
  const save = useAct(
    () =>
      unwrap(
        api.PUT("/api/forms/{formId}", { params: { path: { formId } }, body: { name: null, thankYouUrl: thanks, pageUrl: whole.pageUrl } }),
      ),
    ["form", formId],
  );
  return (
    <chakra.form
      mt="3"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <Field
        label="Visitors land on"
        hint="Without one they get a plain thank-you page."
        error={save.error instanceof Problem ? save.error.fieldError("thankYouUrl") : null}
      >
        {(ids) => (
          <Box display="flex" gap="2">
            <Input {...ids} type="url" value={thanks} disabled={!may} placeholder="https://…" onChange={(e) => setThanks(e.target.value)} />
            {may && changed && (
              <Button type="submit" disabled={save.isPending}>
                Save
              </Button>
            )}
          </Box>
        )}
      </Field>
      {save.error && !(save.error instanceof Problem && save.error.fieldError("thankYouUrl")) && <ErrorTold error={save.error} />}
    </chakra.form>
  );
}

const proofWords = {
  none: "nobody: anyone who has the address",
  signature: "a Standard Webhooks signature",
  key: "a key (bearer)",
  basic: "user and password (basic)",
} as const;

/** How the program proves itself. The secret is told once. */
function Proof({ whole }: { whole: Schemas["FormDetail"] }) {
  const formId = whole.form.id;
  const now = (whole.proofKind ?? "none") as keyof typeof proofWords;
  const [kind, setKind] = useState(now);
  const [user, setUser] = useState(whole.proofUser ?? "");
  const set = useAct(
    () => unwrap(api.PUT("/api/forms/{formId}/proof", { params: { path: { formId } }, body: { kind, user: user || null } })),
    ["form", formId],
  );
  return (
    <Box mt="5">
      <SectionHead>How the program proves itself</SectionHead>
      <Field label="It shows" error={set.error instanceof Problem ? (set.error.fieldError("user") ?? set.error.fieldError("kind")) : null}>
        {(ids) => (
          <Select {...ids} value={kind} onChange={(e) => setKind(e.target.value as typeof kind)}>
            {Object.entries(proofWords).map(([k, words]) => (
              <option key={k} value={k}>
                {words}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {kind === "basic" && <Field label="User">{(ids) => <Input {...ids} value={user} onChange={(e) => setUser(e.target.value)} />}</Field>}
      <Button size="small" disabled={set.isPending || (kind === "none" && now === "none")} onClick={() => set.mutate()}>
        {kind === "none" ? "Ask for nothing" : kind === now ? "Make a new secret" : "Ask for this, and make the secret"}
      </Button>
      {set.data?.secret && (
        <Box mt="3">
          <Box fontSize="14px" mb="1">
            The secret, told this once. Anything sent without it is refused from now on, and stands on the source's page.
          </Box>
          <ToPaste text={set.data.secret} label="Copy the secret" />
        </Box>
      )}
    </Box>
  );
}
