import { Box, chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, Problem, unwrap } from "@/api/client";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { Field, Input, Select, TextArea } from "@/ui/Field";
import { PageHead } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

const asked: [string, string, "text" | "email" | "tel"][] = [
  ["full_name", "Name", "text"],
  ["email", "Email", "email"],
  ["phone", "Telephone number", "tel"],
  ["company", "Business", "text"],
];

/** Somebody rang, or came by: a lead typed in by hand. */
export function AddLeadPage() {
  const person = usePerson();
  const chosen = useChosenClient();
  const mine = person.clients.filter((c) => c.may.includes("touch-leads"));
  const [client, setClient] = useState(chosen?.key ?? (mine.length === 1 ? (mine[0]?.key ?? "") : ""));
  const [known] = useSearchParams();
  // From the tray: what is known of them already.
  const [fields, setFields] = useState<Record<string, string>>(() =>
    Object.fromEntries(asked.flatMap(([key]) => (known.get(key) ? [[key, known.get(key) ?? ""]] : []))),
  );
  const [lights, setLights] = useState(true);
  const [id, setId] = useState(() => crypto.randomUUID());
  const [added, setAdded] = useState<string | null>(null);
  const add = useAct(
    () => unwrap(api.POST("/api/leads", { body: { client, fields, id, sentAt: null, lightsFuses: lights, test: false } })),
    ["leads"],
    ["watch"],
    ["frame"],
  );
  const put = (key: string, value: string) => {
    setFields((f) => ({ ...f, [key]: value }));
    setAdded(null);
  };
  const problem = add.error instanceof Problem ? add.error : null;
  const send = async () => {
    await add.mutateAsync();
    setAdded(fields.full_name || fields.email || fields.phone || "The lead");
    setFields({});
    setId(crypto.randomUUID());
  };
  return (
    <Box p={{ base: "3", md: "5" }} pt="4" maxW="560px">
      <PageHead title="Add a lead" beside="somebody rang, or came by" />
      <chakra.form
        onSubmit={(e) => {
          e.preventDefault();
          send().catch(() => undefined);
        }}
      >
        {mine.length > 1 && (
          <Field label="For which client" error={problem?.fieldError("client")}>
            {(ids) => (
              <Select {...ids} value={client} required onChange={(e) => setClient(e.target.value)}>
                <option value="">Choose…</option>
                {mine.map((c) => (
                  <option key={c.key} value={c.key}>
                    {c.name}
                  </option>
                ))}
              </Select>
            )}
          </Field>
        )}
        {asked.map(([key, label, type]) => (
          <Field key={key} label={label} error={problem?.fieldError(key) ?? problem?.fieldError(`fields.${key}`)}>
            {(ids) => (
              <Input {...ids} type={type} autoComplete="off" value={fields[key] ?? ""} onChange={(e) => put(key, e.target.value)} />
            )}
          </Field>
        ))}
        <Field label="What they want">
          {(ids) => <TextArea {...ids} rows={3} value={fields.message ?? ""} onChange={(e) => put("message", e.target.value)} />}
        </Field>
        <chakra.label display="flex" gap="2" alignItems="center" minH="30px" mb="3">
          <input type="checkbox" checked={lights} onChange={(e) => setLights(e.target.checked)} /> Let it light fuses
        </chakra.label>
        <Button look="primary" type="submit" disabled={add.isPending || !client}>
          Add the lead
        </Button>
        {add.error && !problem?.more.errors && <ErrorTold error={add.error} />}
      </chakra.form>
      {added && (
        <Box role="status" mt="4" borderLeftWidth="4px" borderColor="verdigris" bg="card" p="3">
          {added} is in.{" "}
          <Link to={withClient("/leads", chosen?.key)}>
            <u>See the leads</u>
          </Link>
          , or add another.
        </Box>
      )}
    </Box>
  );
}
