import { Box } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { usePerson } from "@/app/useSession";
import { withSettings } from "@/features/fuses/model/editing";
import { columnsShown, emptied, fieldAlone, fits, type ShownColumn, wordsOf } from "@/features/fuses/model/serviceColumns";
import type { Around, Definition, Step } from "@/features/fuses/model/sheetLayout";
import { Button } from "@/ui/Button";
import { Field, Input, Select } from "@/ui/Field";
import { WordsEditor } from "./WordsEditor";

type Setting = Schemas["StepSetting"];
type Item = Schemas["ListItem"];

/** The setting that says which connection carries a step. */
export const connectionSetting = "connection";

/** Through which connection a step goes; asked only where there is a choice, or where the one there is broken. */
export function ThroughPart({
  service,
  chosen,
  around,
  onChange,
}: {
  service: string;
  chosen: string;
  around: Around;
  onChange: (id: string) => void;
}) {
  const through = around.connections.filter((c) => c.kind === service);
  const one = through.find((c) => c.id === chosen) ?? (through.length === 1 ? through[0] : undefined);
  if (through.length < 2 && !chosen) {
    return one?.fault ? (
      <Box mb="3" fontSize="13px" color="cinder">
        {one.name}: {one.fault}
      </Box>
    ) : null;
  }
  return (
    <Field label="Through" error={one?.fault ?? null}>
      {(ids) => (
        <Select {...ids} value={chosen} onChange={(e) => onChange(e.target.value)}>
          {!through.some((c) => c.id === chosen) && <option value={chosen}>{chosen ? "a connection that is gone" : "Choose …"}</option>}
          {through.map((c) => (
            <option key={c.id} value={c.id}>
              {c.name}
            </option>
          ))}
        </Select>
      )}
    </Field>
  );
}

type Props = {
  setting: Setting;
  step: Step;
  whole: Schemas["FuseDetail"];
  definition: Definition;
  rules: Schemas["RuleSet"] | null;
  mayEdit: boolean;
  onChange: (settings: Record<string, string>, typing?: string) => void;
};

/** A setting whose values are known: a few of our own, or a list that lives at the service. */
export function ServiceSetting(props: Props) {
  const { setting, step, onChange } = props;
  const value = step.settings[setting.key] ?? "";
  if (setting.type === "choice") {
    return (
      <Field label={setting.label} hint={setting.hint ?? undefined}>
        {(ids) => (
          <Select {...ids} value={value} onChange={(e) => onChange(withSettings(step, setting.key, e.target.value))}>
            {!(setting.choices ?? []).some((c) => c.value === value) && <option value={value}>{value || "Choose …"}</option>}
            {(setting.choices ?? []).map((c) => (
              <option key={c.value} value={c.value}>
                {c.label}
              </option>
            ))}
          </Select>
        )}
      </Field>
    );
  }
  return <Listed {...props} />;
}

function Listed(props: Props) {
  const { setting, step, whole, onChange } = props;
  const queries = useQueryClient();
  const client = usePerson().clients.find((c) => c.id === whole.fuse.clientId)?.key ?? "";
  const through = Object.fromEntries([...(setting.listNeeds ?? []), connectionSetting].map((k) => [k, step.settings[k] ?? ""]));
  const key = ["service-list", client, step.kind, setting.key, through];
  const ask = (again: boolean) =>
    unwrap(
      api.POST("/api/connections/lists", {
        body: { client, step: step.kind, setting: setting.key, settings: through, again },
      }),
    );
  const list = useQuery({ queryKey: key, queryFn: () => ask(false), staleTime: 60_000 });
  const [asking, setAsking] = useState(false);
  const refresh = async () => {
    setAsking(true);
    try {
      queries.setQueryData(key, await ask(true));
    } finally {
      setAsking(false);
    }
  };
  const items = list.data?.items ?? null;
  const beside = list.isPending
    ? "Asking for the list …"
    : list.data && list.data.needs.length > 0
      ? `Choose ${list.data.needs.join(" and ").toLowerCase()} first.`
      : (list.data?.fault ?? (list.error ? "The list could not be had just now." : null));
  if (setting.type === "columns")
    return <Columns {...props} items={items} beside={beside} asking={asking} refresh={() => void refresh()} />;
  const value = step.settings[setting.key] ?? "";
  const known = items?.some((i) => i.key === value);
  return (
    <Field
      label={setting.label}
      hint={beside ?? setting.hint ?? undefined}
      error={items && value && !known ? `“${value}” is not there any more.` : null}
    >
      {(ids) => (
        <Box display="flex" gap="2">
          <Select
            {...ids}
            value={value}
            onChange={(e) => onChange(emptied(withSettings(step, setting.key, e.target.value), whole.around, step.kind, setting.key))}
          >
            {(setting.optional || !known) && (
              <option value={known ? "" : value}>{known || !value ? (setting.optional ? "as it is" : "Choose …") : value}</option>
            )}
            {(items ?? []).map((i) => (
              <option key={i.key} value={i.key}>
                {i.name}
              </option>
            ))}
          </Select>
          <Button size="small" look="soft" disabled={asking} onClick={() => void refresh()} aria-label={`Ask again for ${setting.label}`}>
            {asking ? "Asking …" : "Refresh"}
          </Button>
        </Box>
      )}
    </Field>
  );
}

type ColumnsProps = Props & { items: Item[] | null; beside: string | null; asking: boolean; refresh: () => void };

/** What goes into each column there: the demanded ones and those filled first, the rest by searching. */
function Columns(props: ColumnsProps) {
  const { setting, step, whole, mayEdit, onChange, items, beside, asking, refresh } = props;
  const [search, setSearch] = useState("");
  const { shown, more } = columnsShown(setting.key, step.settings, items ?? [], search);
  const fitting = fits(setting.key, step.settings, items ?? [], whole.around.fields);
  return (
    <Box as="fieldset" border="0" mb="3">
      <Box display="flex" alignItems="baseline" gap="3" mb="1">
        <Box as="legend" fontSize="13px" color="ink2">
          {setting.label}
        </Box>
        {mayEdit && fitting.length > 0 && (
          <Button
            look="quiet"
            fontSize="13px"
            ml="auto"
            onClick={() => onChange({ ...step.settings, ...Object.fromEntries(fitting.map((f) => [f.key, f.words])) })}
          >
            Fill what fits ({fitting.length})
          </Button>
        )}
        <Button look="quiet" fontSize="13px" ml={fitting.length > 0 ? undefined : "auto"} disabled={asking} onClick={refresh}>
          {asking ? "Asking …" : "Refresh"}
        </Button>
      </Box>
      {beside && (
        <Box fontSize="13px" color="ink2" mb="2" role="status">
          {beside}
        </Box>
      )}
      {shown.map((column) => (
        <ColumnRow key={column.key} {...props} column={column} />
      ))}
      {(more > 0 || search) && (
        <Field label={`Another field to fill (${more} more there)`}>
          {(ids) => <Input {...ids} value={search} placeholder="Search by name" onChange={(e) => setSearch(e.target.value)} />}
        </Field>
      )}
    </Box>
  );
}

const ownWords = "own words";
const everyAnswer = "{{ answers }}";

/** One column: a lead field goes into it as it is, or words of one's own. */
function ColumnRow({ column, setting, step, whole, definition, rules, mayEdit, onChange }: ColumnsProps & { column: ShownColumn }) {
  const key = `${setting.key}.${column.key}`;
  const value = step.settings[key] ?? "";
  const field = fieldAlone(value, whole.around.fields);
  const all = value.trim() === everyAnswer;
  const [own, setOwn] = useState(value !== "" && !field && !all);
  const put = (next: string, typing = false) => onChange(withSettings(step, key, next), typing ? key : undefined);
  const pick = (chosen: string) => {
    setOwn(chosen === ownWords);
    if (chosen !== ownWords) put(chosen === "" || chosen === everyAnswer ? chosen : wordsOf(chosen));
  };
  const error = column.gone ? "It is not there any more: take it out." : column.required && !value && !own ? "It is demanded there." : null;
  return (
    <Box borderLeftWidth="2px" borderColor={error ? "cinder" : value ? "verdigris" : "line"} pl="2" mb="1">
      <Field label={column.name} error={error} hint={column.about && column.about !== "text" ? column.about : undefined}>
        {(ids) => (
          <Select {...ids} value={own ? ownWords : all ? everyAnswer : (field?.key ?? "")} onChange={(e) => pick(e.target.value)}>
            <option value="">nothing</option>
            {whole.around.fields.map((f) => (
              <option key={f.key} value={f.key}>
                {f.label.toLowerCase()}
              </option>
            ))}
            <option value={everyAnswer}>every answer</option>
            <option value={ownWords}>words of my own</option>
          </Select>
        )}
      </Field>
      {own && (
        <WordsEditor
          label={`Words for ${column.name}`}
          asText={false}
          line
          words={value}
          whole={whole}
          definition={definition}
          step={step}
          rules={rules}
          mayEdit={mayEdit}
          onChange={put}
        />
      )}
    </Box>
  );
}
