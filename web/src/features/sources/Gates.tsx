import { Box } from "@chakra-ui/react";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { needsValues, opWords } from "@/api/words";
import { Button } from "@/ui/Button";
import { Field, Input, TextArea } from "@/ui/Field";
import { SectionHead } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";
import { useDraftOf } from "@/ui/useDraftOf";
import { SentencePick } from "./SentencePick";

type Hold = Schemas["HoldRule"];
// What can be told of a submission that nobody has looked at yet.
const asked: readonly Schemas["RuleOp"][] = ["one-of", "not-one-of", "contains", "at-least", "at-most", "filled", "empty"];
const ops = asked.map((op): [Schemas["RuleOp"], string] => [op, opWords(op)]);

/** What stands between a submission and its fuse: approval, and the lead's own confirming. As sentences. */
export function Gates({ whole, may }: { whole: Schemas["FormDetail"]; may: boolean }) {
  return (
    <Box mt="6">
      <SectionHead>Before anything happens</SectionHead>
      <HoldSentence whole={whole} may={may} />
      <OptInSentence whole={whole} may={may} />
    </Box>
  );
}

function HoldSentence({ whole, may }: { whole: Schemas["FormDetail"]; may: boolean }) {
  const { draft: hold, setDraft: setHold, changed, putBack } = useDraftOf<Hold>(whole.hold);
  const rule = hold.when?.rules[0] ?? { field: "", op: "one-of" as const, values: [] };
  const setRule = (change: Partial<Schemas["Rule"]>) =>
    setHold({ ...hold, when: { match: hold.when?.match ?? "all", rules: [{ ...rule, ...change }, ...(hold.when?.rules.slice(1) ?? [])] } });
  const save = useAct(
    () => unwrap(api.PUT("/api/forms/{formId}/hold", { params: { path: { formId: whole.form.id } }, body: { hold } })),
    ["form", whole.form.id],
  );
  const values = rule.values.join(", ");
  const fields = [...new Set(whole.fields.map((f) => f.leadField ?? f.name))];
  return (
    <Box mb="3" lineHeight="34px" fontSize="15px">
      <SentencePick
        label="What waits for approval"
        value={hold.kind}
        disabled={!may}
        onChange={(kind) => setHold({ ...hold, kind: kind as Hold["kind"], junkFrom: hold.junkFrom || 60 })}
        of={[
          ["nothing", "Nothing waits for approval."],
          ["junk", "What looks like junk waits for approval:"],
          ["rules", "Some of it waits for approval:"],
          ["all", "Everything waits for approval."],
        ]}
      />
      {(hold.kind === "junk" || hold.kind === "rules") && (
        <>
          {" a junk score of "}
          <Input
            aria-label="Junk score from"
            type="number"
            min={1}
            max={100}
            display="inline-block"
            width="64px"
            minH="30px"
            py="0"
            disabled={!may}
            value={hold.junkFrom}
            onChange={(e) => setHold({ ...hold, junkFrom: Number(e.target.value) })}
          />
          {" and more"}
        </>
      )}
      {hold.kind === "rules" && (
        <>
          {", and when "}
          <SentencePick
            label="The field"
            value={rule.field}
            disabled={!may}
            onChange={(field) => setRule({ field })}
            of={[["", "choose a field"], ...fields.map((f): [string, string] => [f, f.replaceAll("_", " ")])]}
          />{" "}
          <SentencePick
            label="How it is compared"
            value={rule.op}
            disabled={!may}
            onChange={(op) => setRule({ op: op as Schemas["RuleOp"] })}
            of={ops}
          />
          {needsValues(rule.op) && (
            <>
              {" "}
              <Input
                aria-label="With what, parted by commas"
                display="inline-block"
                width="180px"
                minH="30px"
                py="0"
                disabled={!may}
                value={values}
                onChange={(e) => setRule({ values: e.target.value.split(",").map((v) => v.trimStart()) })}
              />
            </>
          )}
        </>
      )}
      {hold.kind !== "nothing" && hold.kind !== "all" && "."}
      {changed && may && (
        <Box display="flex" gap="3" mt="1">
          <Button size="small" disabled={save.isPending} onClick={() => save.mutate()}>
            Keep this
          </Button>
          <Button size="small" look="quiet" onClick={putBack}>
            Put back
          </Button>
        </Box>
      )}
      {save.error && <ErrorTold error={save.error} />}
    </Box>
  );
}

const firstLetter: Schemas["OptInLetter"] = {
  subject: "One press, and we get in touch",
  words:
    "Hello {name},\n\nyou asked {client} to get in touch. Please press this once, so that we know it was you:\n\n{link}\n\nIf it was not you, do nothing: nothing happens then.\n",
  hours: 48,
};

function OptInSentence({ whole, may }: { whole: Schemas["FormDetail"]; may: boolean }) {
  const { draft: letter, setDraft: setLetter, changed, putBack } = useDraftOf<Schemas["OptInLetter"] | null>(whole.optIn);
  const save = useAct(
    () => unwrap(api.PUT("/api/forms/{formId}/opt-in", { params: { path: { formId: whole.form.id } }, body: { letter } })),
    ["form", whole.form.id],
  );
  const problem = save.error instanceof Problem ? save.error : null;
  return (
    <Box fontSize="15px">
      <Box lineHeight="34px">
        <SentencePick
          label="Double opt-in"
          value={letter ? "yes" : "no"}
          disabled={!may}
          onChange={(v) => setLetter(v === "yes" ? (whole.optIn ?? firstLetter) : null)}
          of={[
            ["no", "They need not confirm their address."],
            ["yes", "They confirm their address by a letter, before anything else happens:"],
          ]}
        />
      </Box>
      {letter && (
        <Box borderLeftWidth="3px" borderColor="line" pl="3" maxW="560px">
          <Field label="Subject" error={problem?.fieldError("letter.subject")}>
            {(ids) => (
              <Input {...ids} disabled={!may} value={letter.subject} onChange={(e) => setLetter({ ...letter, subject: e.target.value })} />
            )}
          </Field>
          <Field
            label="The letter"
            error={problem?.fieldError("letter.words")}
            hint="{link} is the confirming link, {name} their first name, {client} the business. Looking at the link confirms nothing; its button does."
          >
            {(ids) => (
              <TextArea
                {...ids}
                rows={8}
                disabled={!may}
                value={letter.words}
                onChange={(e) => setLetter({ ...letter, words: e.target.value })}
              />
            )}
          </Field>
          <Field label="The link is good for so many hours" error={problem?.fieldError("letter.hours")}>
            {(ids) => (
              <Input
                {...ids}
                type="number"
                width="90px"
                disabled={!may}
                value={letter.hours}
                onChange={(e) => setLetter({ ...letter, hours: Number(e.target.value) })}
              />
            )}
          </Field>
        </Box>
      )}
      {changed && may && (
        <Box display="flex" gap="3" mt="1">
          <Button size="small" disabled={save.isPending} onClick={() => save.mutate()}>
            {letter ? "Ask them to confirm" : "Ask no more"}
          </Button>
          <Button size="small" look="quiet" onClick={putBack}>
            Put back
          </Button>
        </Box>
      )}
      {save.error && !problem?.more.errors && <ErrorTold error={save.error} />}
    </Box>
  );
}
