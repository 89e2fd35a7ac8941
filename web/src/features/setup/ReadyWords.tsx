import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field, Input, TextArea } from "@/ui/Field";
import { SectionHead } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

type Words = Schemas["ReadyWordsRow"];

/** Words that several fuses use. A new version changes nothing that is armed; each sheet offers it. */
export function ReadyWords({ client }: { client: string }) {
  const [open, setOpen] = useState<string | null>(null);
  const list = useQuery({ queryKey: ["words", client], queryFn: () => unwrap(api.GET("/api/words", { params: { query: { client } } })) });
  return (
    <Box mb="8" maxW="860px">
      <SectionHead>Words ready for use</SectionHead>
      <Box fontSize="14px" color="ink2" mb="2">
        Kept once, taken by the steps of several fuses. What is armed keeps the words it was armed with; a sheet offers newer ones.
      </Box>
      {list.error && <ErrorTold error={list.error} again={() => void list.refetch()} />}
      {list.data?.words.map((w) => (
        <Box key={w.key} borderTopWidth="1px" py="2">
          <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap">
            <b>{w.name}</b>
            <Box as="span" fontFamily="mono" fontSize="12px" color="ink2">
              v{w.version}
              {w.by ? ` by ${w.by}` : ""}
            </Box>
            <Button
              look="quiet"
              fontSize="13px"
              ml="auto"
              aria-expanded={open === w.key}
              onClick={() => setOpen(open === w.key ? null : w.key)}
            >
              {open === w.key ? "not now" : "A new version"}
            </Button>
          </Box>
          <Box whiteSpace="pre-wrap" fontSize="14px" color="ink2" overflowWrap="anywhere">
            {w.words}
          </Box>
          <Box fontSize="13px" color="ink2">
            {w.usedBy.length === 0 ? "No fuse uses them yet." : `Used by ${w.usedBy.join("; ")}.`}
          </Box>
          {open === w.key && <Editor client={client} of={w} onKept={() => setOpen(null)} />}
        </Box>
      ))}
      {open === "new" ? (
        <Editor client={client} onKept={() => setOpen(null)} />
      ) : (
        <Button look="soft" size="small" mt="2" onClick={() => setOpen("new")}>
          Keep words
        </Button>
      )}
    </Box>
  );
}

function Editor({ client, of, onKept }: { client: string; of?: Words; onKept: () => void }) {
  const [name, setName] = useState(of?.name ?? "");
  const [subject, setSubject] = useState(of?.subject ?? "");
  const [words, setWords] = useState(of?.words ?? "");
  const keep = useAct(
    () => unwrap(api.POST("/api/words", { body: { client, key: of?.key ?? null, name, words, subject: subject || null } })),
    ["words", client],
  );
  return (
    <Box
      as="form"
      borderLeftWidth="3px"
      borderColor="sulphur"
      pl="3"
      mt="2"
      onSubmit={(e: React.FormEvent) => {
        e.preventDefault();
        keep.mutate(undefined, { onSuccess: onKept });
      }}
    >
      <Field label="Name">
        {(ids) => <Input {...ids} value={name} maxLength={80} required onChange={(e) => setName(e.target.value)} />}
      </Field>
      <Field label="Subject, for emails">{(ids) => <Input {...ids} value={subject} onChange={(e) => setSubject(e.target.value)} />}</Field>
      <Field label="Words, with fields in them">
        {(ids) => (
          <TextArea {...ids} rows={5} fontFamily="mono" fontSize="13px" value={words} required onChange={(e) => setWords(e.target.value)} />
        )}
      </Field>
      {keep.error && <ErrorTold error={keep.error} />}
      <Button type="submit" disabled={keep.isPending}>
        {of ? `Keep as v${of.version + 1}` : "Keep them"}
      </Button>
    </Box>
  );
}
