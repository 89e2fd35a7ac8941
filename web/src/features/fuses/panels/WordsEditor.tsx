import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import type { Around, Definition, Step } from "@/features/fuses/model/sheetLayout";
import { splitWords } from "@/features/fuses/model/words";
import { Button } from "@/ui/Button";
import { Field, TextArea } from "@/ui/Field";
import { FieldChooser } from "./FieldChooser";
import { pairsOf } from "./OwnNames";

type WordsEditorProps = {
  label: string;
  hint?: string | null | undefined;
  /** It may stay empty. */
  optional?: boolean;
  words: string;
  asText: boolean;
  line: boolean;
  whole: Schemas["FuseDetail"];
  definition: Definition;
  step: Step;
  rules: Schemas["RuleSet"] | null;
  mayEdit: boolean;
  onChange: (words: string, typing: boolean) => void;
};

/** Words with fields in them, the fields marked, and beneath how a real lead would get them. */
export function WordsEditor({
  label,
  hint,
  words,
  asText,
  line,
  optional,
  whole,
  definition,
  step,
  rules,
  mayEdit,
  onChange,
}: WordsEditorProps) {
  const box = useRef<HTMLTextAreaElement>(null);
  const behind = useRef<HTMLDivElement>(null);
  const preview = usePreview(whole.fuse.id, words, formsOf(definition, whole.around), rules, step.choices ?? []);
  const insert = (text: string) => {
    const area = box.current;
    const [from, to] = area ? [area.selectionStart, area.selectionEnd] : [words.length, words.length];
    onChange(words.slice(0, from) + text + words.slice(to), false);
    requestAnimationFrame(() => {
      area?.focus();
      area?.setSelectionRange(from + text.length, from + text.length);
    });
  };
  const chips: [string, string][] = [
    ...whole.around.fields
      .filter((f) => f.key !== "full_name")
      .map((f): [string, string] => [
        f.label.toLowerCase(),
        f.key === "first_name" ? '{{ lead.first_name | default: "Hello" }}' : `{{ lead.${f.key} }}`,
      ]),
    ["full name", "{{ lead.name }}"],
    ["every answer", "{{ answers }}"],
    ["form", "{{ form.name }}"],
    ["client", "{{ client.name }}"],
    ["who answers for them", '{{ owner.first_name | default: "Somebody" }}'],
    ["link to the lead", "{{ lead.link }}"],
    ...(step.choices?.length ? [["choices", "{{ choices }}"] as [string, string]] : []),
    ["what they chose", "{{ reply.choice }}"],
    ...resultsOf(definition, whole.around, step),
  ];
  const size = preview.data?.size;
  const unused = optional === true && words.trim() === "";
  return (
    <>
      <Field
        label={label}
        hint={hint ?? undefined}
        error={unused ? null : (preview.data?.fault ?? null)}
        aside={
          asText && size ? (
            <Box fontFamily="mono" fontSize="12px">
              {size.units} · {size.segments === 1 ? "1 segment" : `${size.segments} segments`}
              {size.unicode && (
                <span title="A character outside the GSM alphabet makes each segment 70 characters instead of 160"> · UCS-2</span>
              )}
            </Box>
          ) : undefined
        }
      >
        {(ids) => (
          <Box position="relative">
            <Box
              ref={behind}
              aria-hidden
              position="absolute"
              inset="0"
              overflow="hidden"
              px="9px"
              py="9px"
              fontSize="13px"
              lineHeight={1.55}
              fontFamily="mono"
              whiteSpace="pre-wrap"
              overflowWrap="break-word"
              color="transparent"
              pointerEvents="none"
              bg="paper"
              borderRadius="sm"
            >
              {splitWords(words).map((part, i) =>
                part.field ? (
                  // biome-ignore lint/suspicious/noArrayIndexKey: parts of one text, in order
                  <Box as="span" key={i} bg="line" borderRadius="2px" css={{ boxShadow: "0 0 0 1px var(--chakra-colors-slate)" }}>
                    {part.text}
                  </Box>
                ) : (
                  part.text
                ),
              )}{" "}
            </Box>
            <TextArea
              {...ids}
              ref={box}
              rows={line ? 2 : asText ? 6 : 9}
              value={words}
              spellCheck
              bg="transparent"
              position="relative"
              px="8px"
              py="8px"
              fontSize="13px"
              lineHeight={1.55}
              fontFamily="mono"
              onChange={(e) => onChange(e.target.value, true)}
              onScroll={(e) => behind.current?.scrollTo(0, e.currentTarget.scrollTop)}
            />
          </Box>
        )}
      </Field>
      {mayEdit && (
        <FieldChooser choices={chips.map(([name, text]) => ({ name, text }))} samples={preview.data?.samples ?? {}} onChoose={insert} />
      )}
      {mayEdit && !line && <Filters of={whole.around.filters} />}
      {!unused && <Preview preview={preview} line={line} letter={!line && (step.kind === "email" || step.kind === "team-email")} />}
    </>
  );
}

// Results of steps that are surely there: those of its own band, and of bands that are always entered.
const resultsOf = (definition: Definition, around: Around, step: Step) =>
  definition.bands
    .filter((b) => b.entry.kind === "always" || b.steps.some((s) => s.id === step.id))
    .flatMap((b) => b.steps)
    .filter((s) => s.id !== step.id)
    .flatMap((s) => usefulOf(around, s).map((r): [string, string] => [`${s.name}: ${r}`, `{{ steps.${s.id}.${r} }}`]));

// Links, and what a step was told to take from an answer; ids and numbers can be typed.
function usefulOf(around: Around, step: Step): string[] {
  const kind = around.kinds.find((k) => k.key === step.kind);
  const own = kind?.resultsFrom ? pairsOf(kind.resultsFrom, step.settings).map(([name]) => name) : [];
  return [...(kind?.results ?? []).filter((r) => r === "url"), ...own];
}

// The leads that words are shown for come by the forms that light the fuse; by any form where no form does.
function formsOf(definition: Definition, around: Around): string[] {
  const forms = definition.litBy.flatMap((l) => l.only?.form ?? []);
  return forms.length > 0 ? forms : around.forms.map((f) => f.key);
}

function Filters({ of }: { of: readonly Schemas["ContextFilter"][] }) {
  return (
    <Box as="details" fontSize="12px" color="ink2" mb="3">
      <Box as="summary" cursor="pointer" width="fit-content">
        What can be done with a field
      </Box>
      <Box as="ul" listStyleType="none" mt="1">
        {of.map((f) => (
          <Box as="li" key={f.name} mb="1">
            <Box as="code" fontFamily="mono" overflowWrap="anywhere">
              {f.example}
            </Box>{" "}
            {f.makes}
          </Box>
        ))}
      </Box>
    </Box>
  );
}

function usePreview(fuseId: string, words: string, forms: readonly string[], rules: Schemas["RuleSet"] | null, choices: readonly string[]) {
  const [place, setPlace] = useState(0);
  const [settled, setSettled] = useState(words);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(words), 200);
    return () => clearTimeout(timer);
  }, [words]);
  const asked = useDeferredValue(settled);
  const found = useQuery({
    queryKey: ["preview", fuseId, asked, place, forms, rules, choices],
    placeholderData: (before) => before,
    queryFn: () =>
      unwrap(
        api.POST("/api/fuses/{fuseId}/preview", {
          params: { path: { fuseId } },
          body: { words: asked, place, forms: [...forms], rules, choices: [...choices] },
        }),
      ),
  });
  return { data: found.data, error: found.error, place, setPlace };
}

function Preview({ preview, line, letter }: { preview: ReturnType<typeof usePreview>; line: boolean; letter: boolean }) {
  const { data, place, setPlace } = preview;
  const [html, setHtml] = useState(false);
  if (preview.error)
    return (
      <Box color="cinder" mb="3">
        The preview could not be made; the words are kept all the same.
      </Box>
    );
  if (!data) return null;
  if (data.of === 0)
    return line ? null : (
      <Box color="ink2" fontSize="13px" mb="4">
        No lead that this band is for has come by these forms yet; the first will be shown here.
      </Box>
    );
  return (
    <Box mb="4">
      <Box display="flex" justifyContent="space-between" alignItems="baseline" fontSize="13px" color="ink2" mb="1" gap="2">
        <span>
          As{" "}
          <Link to={`/leads/${data.leadId}`}>
            <u>{data.lead}</u>
          </Link>
          {"'s would read"}
        </span>
        <Box display="flex" gap="2" alignItems="baseline" fontFamily="mono" fontSize="12px" whiteSpace="nowrap">
          <Button look="quiet" fontSize="13px" disabled={place === 0} onClick={() => setPlace(place - 1)} aria-label="A newer lead">
            ‹
          </Button>
          <span>
            {place + 1} of {data.of}
          </span>
          <Button
            look="quiet"
            fontSize="13px"
            disabled={place + 1 >= data.of}
            onClick={() => setPlace(place + 1)}
            aria-label="An older lead"
          >
            ›
          </Button>
        </Box>
      </Box>
      {letter && (
        <Box display="flex" gap="3" fontSize="13px" mb="1" role="group" aria-label="Which part of the letter">
          <Button look="quiet" fontSize="13px" fontWeight={html ? 400 : 700} aria-pressed={!html} onClick={() => setHtml(false)}>
            as text
          </Button>
          <Button look="quiet" fontSize="13px" fontWeight={html ? 700 : 400} aria-pressed={html} onClick={() => setHtml(true)}>
            as HTML
          </Button>
        </Box>
      )}
      {html && (
        <chakra.iframe
          title="The letter as HTML"
          sandbox=""
          srcDoc={data.html ?? ""}
          width="full"
          height="260px"
          bg="white"
          borderWidth="1px"
          borderColor="line"
        />
      )}
      <Box
        display={html ? "none" : "block"}
        role="status"
        aria-label="Preview"
        bg="paper"
        borderLeftWidth="4px"
        borderColor="sulphur"
        px="3"
        py="2"
        fontSize="14px"
        whiteSpace="pre-wrap"
        overflowWrap="anywhere"
      >
        {data.rendered ?? ""}
      </Box>
    </Box>
  );
}
