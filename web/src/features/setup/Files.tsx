import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field, Input, Select } from "@/ui/Field";
import { SectionHead } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { cityOf, dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";

const formats = ["csv", "xlsx", "ndjson"] as const;
const fileUrl = (client: string, name: string, format: string) => `/api/sheets/file?${new URLSearchParams({ client, name, format })}`;

/** Files of a client: those that fuses fill row by row, and those that go out every night. */
export function Files({ client, zone }: { client: string; zone: string }) {
  const now = useNow(10_000);
  const sheets = useQuery({
    queryKey: ["sheets", client],
    queryFn: () => unwrap(api.GET("/api/sheets", { params: { query: { client } } })),
  });
  return (
    <Box mb="8">
      <SectionHead>Files</SectionHead>
      {sheets.error && <ErrorTold error={sheets.error} again={() => void sheets.refetch()} />}
      {sheets.isPending && <Fetching what="files" />}
      {sheets.data?.sheets.length === 0 && (
        <Box fontSize="14px" color="ink2" mb="2">
          A step “Row in a file of ours” begins a file here; it can be had at any time.
        </Box>
      )}
      {sheets.data?.sheets.map((s) => (
        <Box key={s.name} display="flex" gap="3" alignItems="baseline" flexWrap="wrap" borderBottomWidth="1px" borderColor="line2" py="2">
          <Box fontWeight={600}>{s.name}</Box>
          <Box fontSize="13px" color="ink2">
            {s.rows.toLocaleString("en-GB")} {s.rows === 1 ? "row" : "rows"}, the newest {dayAndClock(s.lastAt, now, zone)}
          </Box>
          <Box ml="auto" display="flex" gap="3" fontSize="13px">
            {formats.map((f) => (
              <chakra.a
                key={f}
                href={fileUrl(client, s.name, f)}
                download
                textDecoration="underline"
                textUnderlineOffset="3px"
                aria-label={`${s.name} as ${f.toUpperCase()}`}
              >
                {f.toUpperCase()}
              </chakra.a>
            ))}
          </Box>
        </Box>
      ))}
      <Nightly client={client} zone={zone} now={now} />
    </Box>
  );
}

function Nightly({ client, zone, now }: { client: string; zone: string; now: number }) {
  const [making, setMaking] = useState(false);
  const list = useQuery({
    queryKey: ["nightly", client],
    queryFn: () => unwrap(api.GET("/api/nightly-files", { params: { query: { client } } })),
  });
  return (
    <Box mt="4">
      {list.error && <ErrorTold error={list.error} again={() => void list.refetch()} />}
      {list.data?.files.map((f) => (
        <NightlyLine key={f.id} file={f} zone={zone} now={now} />
      ))}
      {list.data && !making && (
        <Button mt="2" disabled={list.data.doors.length === 0} onClick={() => setMaking(true)}>
          Send a file every night
        </Button>
      )}
      {list.data?.doors.length === 0 && (
        <Box fontSize="13px" color="ink2" mt="1">
          Connect a mail server or a folder (WebDAV) first.
        </Box>
      )}
      {making && list.data && <MakeNightly client={client} zone={zone} doors={list.data.doors} done={() => setMaking(false)} />}
    </Box>
  );
}

function NightlyLine({ file: f, zone, now }: { file: Schemas["NightlyRow"]; zone: string; now: number }) {
  const path = { params: { path: { fileId: f.id } } };
  const send = useAct(() => unwrap(api.POST("/api/nightly-files/{fileId}/now", path)), ["nightly"]);
  const remove = useAct(() => unwrap(api.DELETE("/api/nightly-files/{fileId}", path)), ["nightly"]);
  const error = send.error ?? remove.error;
  return (
    <Box borderBottomWidth="1px" borderColor="line2" py="2" role="group" aria-label={f.name}>
      <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap">
        <Box fontWeight={600}>{f.name}</Box>
        <Box fontSize="13px" color="ink2">
          {f.ofTheDay ? "those who asked the day before" : "all leads"}, as {f.format.toUpperCase()}, at {f.at}, through {f.connection} to{" "}
          {f.to}
        </Box>
        <Box ml="auto" display="flex" gap="2">
          <Button size="small" disabled={send.isPending} onClick={() => send.mutate()} aria-label={`Send ${f.name} now`}>
            Send it now
          </Button>
          <Button
            size="small"
            look="soft"
            onClick={() => window.confirm(`Send “${f.name}” no more?`) && remove.mutate()}
            aria-label={`Send ${f.name} no more`}
          >
            Take out
          </Button>
        </Box>
      </Box>
      <Box fontSize="13px" color={f.fault ? "cinder" : "ink2"}>
        {f.fault
          ? `${f.fault} It is tried again ${dayAndClock(f.dueAt, now, zone)}.`
          : `${f.sentAt ? `Sent ${dayAndClock(f.sentAt, now, zone)} with ${(f.rows ?? 0).toLocaleString("en-GB")} leads. ` : "Not sent yet. "}Next ${dayAndClock(f.dueAt, now, zone)}.`}
      </Box>
      {error && <ErrorTold error={error} />}
    </Box>
  );
}

type MakeNightlyProps = { client: string; zone: string; doors: readonly Schemas["NightlyDoor"][]; done: () => void };

function MakeNightly({ client, zone, doors, done }: MakeNightlyProps) {
  const [name, setName] = useState("Leads of the day");
  const [door, setDoor] = useState(doors[0]?.id ?? "");
  const [to, setTo] = useState("");
  const [format, setFormat] = useState<string>("csv");
  const [which, setWhich] = useState("day");
  const [at, setAt] = useState("02:30");
  const through = doors.find((d) => d.id === door);
  const make = useAct(
    () =>
      unwrap(
        api.POST("/api/nightly-files", {
          body: { client, name, connectionId: door, to, format, columns: [], ofTheDay: which === "day", at },
        }),
      ),
    ["nightly"],
  );
  const problem = make.error instanceof Problem ? make.error : null;
  return (
    <chakra.form
      maxW="460px"
      mt="2"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate(undefined, { onSuccess: done });
      }}
    >
      <Field label="Name" error={problem?.fieldError("name")}>
        {(ids) => <Input {...ids} value={name} maxLength={60} onChange={(e) => setName(e.target.value)} />}
      </Field>
      <Field label="Of whom">
        {(ids) => (
          <Select {...ids} value={which} onChange={(e) => setWhich(e.target.value)}>
            <option value="day">those who asked the day before</option>
            <option value="all">all leads</option>
          </Select>
        )}
      </Field>
      <Field label="As">
        {(ids) => (
          <Select {...ids} value={format} onChange={(e) => setFormat(e.target.value)}>
            <option value="csv">CSV</option>
            <option value="xlsx">XLSX</option>
            <option value="ndjson">NDJSON: a JSON object a line</option>
          </Select>
        )}
      </Field>
      <Field label="Through" error={problem?.fieldError("connectionId")}>
        {(ids) => (
          <Select {...ids} value={door} onChange={(e) => setDoor(e.target.value)}>
            {doors.map((d) => (
              <option key={d.id} value={d.id}>
                {d.name}
              </option>
            ))}
          </Select>
        )}
      </Field>
      <Field label={through?.asks ?? "To"} error={problem?.fieldError("to")}>
        {(ids) => <Input {...ids} value={to} onChange={(e) => setTo(e.target.value)} />}
      </Field>
      <Field label={`At, in ${cityOf(zone)}`} error={problem?.fieldError("at")}>
        {(ids) => <Input {...ids} type="time" value={at} onChange={(e) => setAt(e.target.value)} />}
      </Field>
      <Box display="flex" gap="3">
        <Button type="submit" disabled={make.isPending}>
          Send it every night
        </Button>
        <Button type="button" look="quiet" onClick={done}>
          Leave it
        </Button>
      </Box>
      {make.error && !problem?.more.errors && <ErrorTold error={make.error} />}
    </chakra.form>
  );
}
