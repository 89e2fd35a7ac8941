import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Input, Select } from "@/ui/Field";
import { useAct } from "@/ui/useAct";
import { builtIn } from "./columns";
import type { Narrowing } from "./useLeadList";

type Props = {
  filter: Narrowing;
  choices: Schemas["LeadChoices"] | undefined;
  fields: readonly string[];
  columns: readonly string[];
  query: string;
  onChange: (change: Record<string, string>) => void;
  onView: (query: string) => void;
};

const states: [string, string][] = [
  ["", "everyone"],
  ["in-the-air", "in the air"],
  ["late", "late"],
  ["touched", "touched"],
  ["unconfirmed", "asked to confirm"],
  ["do-not-contact", "not to be contacted"],
  ["conflict", "may be two"],
];

const small = { width: "auto", maxWidth: "190px", minH: "32px", py: "0", fontSize: "14px" } as const;

/** What narrows the list; each part stands in the address, so that every view can be linked. */
export function LeadFilters({ filter, choices, fields, columns, query, onChange, onView }: Props) {
  const [more, setMore] = useState(Boolean(filter.form || filter.source || filter.since || filter.until || filter.field || filter.tests));
  const pick = (key: keyof Narrowing, label: string, of: readonly [string, string][]) => (
    <Select aria-label={label} {...small} value={filter[key] ?? ""} onChange={(e) => onChange({ [key]: e.target.value })}>
      {of.map(([value, words]) => (
        <option key={value} value={value}>
          {words}
        </option>
      ))}
    </Select>
  );
  const named = (list: readonly Schemas["OwnerChoice"][] | undefined): [string, string][] => (list ?? []).map((o) => [o.id, o.name]);
  return (
    <>
      {pick("state", "Who", states)}
      {pick("owner", "Owner", [["", "any owner"], ["nobody", "no owner"], ...named(choices?.owners)])}
      {(choices?.tags.length ?? 0) > 0 &&
        pick("tag", "Tag", [["", "any tag"], ...(choices?.tags ?? []).map((t): [string, string] => [t, t])])}
      {pick("sort", "Order", [
        ["", "newest asking first"],
        ["target", "nearest target first"],
        ["speed", "slowest first"],
        ["name", "by name"],
      ])}
      <Button look="quiet" fontSize="14px" aria-expanded={more} onClick={() => setMore(!more)}>
        {more ? "Fewer" : "More"}
      </Button>
      <Views choices={choices} query={query} onView={onView} />
      {more && (
        <Box display="flex" gap="2" flexWrap="wrap" alignItems="center" width="full">
          {pick("form", "Form", [["", "any form"], ...named(choices?.forms)])}
          {pick("source", "Source", [["", "any source"], ...named(choices?.sources)])}
          {pick("tests", "Tests", [
            ["", "tests too"],
            ["without", "without tests"],
            ["only", "tests only"],
          ])}
          <Input
            type="date"
            aria-label="Asked since"
            {...small}
            value={filter.since ?? ""}
            onChange={(e) => onChange({ since: e.target.value })}
          />
          <Input
            type="date"
            aria-label="Asked until"
            {...small}
            value={filter.until ?? ""}
            onChange={(e) => onChange({ until: e.target.value })}
          />
          {pick("field", "A field", [["", "any field"], ...fields.map((f): [string, string] => [f, f.replaceAll("_", " ")])])}
          {filter.field && (
            <Input
              aria-label={`What stands in ${filter.field.replaceAll("_", " ")}`}
              placeholder="is filled in, or is…"
              {...small}
              defaultValue={filter.is ?? ""}
              onBlur={(e) => onChange({ is: e.target.value })}
              onKeyDown={(e) => e.key === "Enter" && onChange({ is: e.currentTarget.value })}
            />
          )}
          <Columns columns={columns} fields={fields} onChange={(next) => onChange({ columns: next.join(",") })} />
        </Box>
      )}
    </>
  );
}

function Columns({
  columns,
  fields,
  onChange,
}: {
  columns: readonly string[];
  fields: readonly string[];
  onChange: (c: string[]) => void;
}) {
  const [open, setOpen] = useState(false);
  const all = [...builtIn.map(([key, words]) => ({ key, words })), ...fields.map((f) => ({ key: f, words: f.replaceAll("_", " ") }))];
  const seen = all.filter((c, i) => all.findIndex((o) => o.key === c.key) === i);
  return (
    <Box position="relative">
      <Button size="small" look="soft" aria-expanded={open} onClick={() => setOpen(!open)}>
        Columns {columns.length + 1}
      </Button>
      {open && (
        <Box
          position="absolute"
          zIndex="4"
          top="34px"
          left="0"
          bg="card"
          borderWidth="1px"
          borderColor="ink"
          borderRadius="sm"
          p="3"
          width="260px"
          maxH="320px"
          overflowY="auto"
          role="group"
          aria-label="Columns"
        >
          {seen.map((c) => (
            <Box key={c.key} asChild display="flex" gap="2" alignItems="center" minH="28px" fontSize="14px">
              <label>
                <input
                  type="checkbox"
                  checked={columns.includes(c.key)}
                  onChange={() => onChange(columns.includes(c.key) ? columns.filter((x) => x !== c.key) : [...columns, c.key])}
                />
                {c.words}
              </label>
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
}

type ViewsProps = { choices: Schemas["LeadChoices"] | undefined; query: string; onView: (query: string) => void };

function Views({ choices, query, onView }: ViewsProps) {
  const [naming, setNaming] = useState(false);
  const [name, setName] = useState("");
  const keep = useAct(() => unwrap(api.POST("/api/leads/views", { body: { name, query } })), ["leads", "choices"]);
  const drop = useAct(
    (viewId: string) => unwrap(api.DELETE("/api/leads/views/{viewId}", { params: { path: { viewId } } })),
    ["leads", "choices"],
  );
  const views = choices?.views ?? [];
  const here = views.find((v) => v.query === query);
  return (
    <Box display="flex" gap="2" alignItems="center" ml="auto">
      {views.length > 0 && (
        <Select
          aria-label="Views you keep"
          {...small}
          value={here?.id ?? ""}
          onChange={(e) => onView(views.find((v) => v.id === e.target.value)?.query ?? "")}
        >
          <option value="">your views…</option>
          {views.map((v) => (
            <option key={v.id} value={v.id}>
              {v.name}
            </option>
          ))}
        </Select>
      )}
      {here ? (
        <Button look="quiet" fontSize="14px" onClick={() => drop.mutate(here.id)}>
          Forget “{here.name}”
        </Button>
      ) : query !== "" && !naming ? (
        <Button look="quiet" fontSize="14px" onClick={() => setNaming(true)}>
          Keep this view
        </Button>
      ) : null}
      {naming && !here && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            keep.mutate(undefined, { onSuccess: () => setNaming(false) });
          }}
        >
          <Box display="flex" gap="2">
            <Input autoFocus aria-label="The view's name" {...small} value={name} onChange={(e) => setName(e.target.value)} />
            <Button type="submit" size="small" disabled={!name.trim() || keep.isPending}>
              Keep
            </Button>
          </Box>
        </form>
      )}
    </Box>
  );
}
