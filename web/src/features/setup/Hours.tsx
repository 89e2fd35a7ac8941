import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field, Input } from "@/ui/Field";
import { SectionHead } from "@/ui/Page";
import { ErrorTold, Fetching } from "@/ui/Told";
import { cityOf } from "@/ui/time";
import { useAct } from "@/ui/useAct";

const days = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
const short = (time: string) => time.slice(0, 5);

/** When a client's leads may be written to, when its team works, and how much it may write. */
export function Hours({ clientId }: { clientId: string }) {
  const params = { params: { path: { clientId } } };
  const hours = useQuery({ queryKey: ["hours", clientId], queryFn: () => unwrap(api.GET("/api/clients/{clientId}/hours", params)) });
  return (
    <Box mb="8">
      <SectionHead>Hours and limits</SectionHead>
      {hours.error && <ErrorTold error={hours.error} again={() => void hours.refetch()} />}
      {hours.isPending && <Fetching what="hours" />}
      {hours.data && <Form key={JSON.stringify(hours.data.hours)} clientId={clientId} told={hours.data} />}
    </Box>
  );
}

function Form({ clientId, told: now }: { clientId: string; told: Schemas["ClientHoursTold"] }) {
  const [to, setTo] = useState(now.hours);
  const [laws, setLaws] = useState(false);
  const save = useAct(
    () => unwrap(api.PUT("/api/clients/{clientId}/hours", { params: { path: { clientId } }, body: to })),
    ["hours"],
    ["fuse"],
    ["session"],
  );
  const problem = save.error instanceof Problem ? save.error : null;
  const changed = JSON.stringify(to) !== JSON.stringify(now.hours);
  const time = (key: "sendFrom" | "sendTo" | "workFrom" | "workTo", label: string) => (
    <Field label={label} error={problem?.fieldError(key)}>
      {(ids) => <Input {...ids} type="time" value={short(to[key])} onChange={(e) => setTo({ ...to, [key]: `${e.target.value}:00` })} />}
    </Field>
  );
  const number = (key: "targetMinutes" | "mostADay", label: string, hint?: string) => (
    <Field label={label} error={problem?.fieldError(key)} hint={hint}>
      {(ids) => (
        <Input
          {...ids}
          type="number"
          width="110px"
          min={0}
          value={to[key]}
          onChange={(e) => setTo({ ...to, [key]: Math.max(0, Math.round(Number(e.target.value))) })}
        />
      )}
    </Field>
  );
  const cost = to.segmentPrice == null ? null : (now.segments * to.segmentPrice) / 100;
  return (
    <chakra.form
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <Box display="flex" columnGap="6" flexWrap="wrap">
        {time("sendFrom", "Leads are written to from")}
        {time("sendTo", "until, on their own clock")}
        {time("workFrom", "The team works from")}
        {time("workTo", `until, on the clock of ${cityOf(now.zone)}`)}
      </Box>
      <chakra.fieldset mb="3">
        <chakra.legend fontSize="13px" color="ink2" mb="1">
          on
        </chakra.legend>
        <Box display="flex" columnGap="4" flexWrap="wrap" fontSize="14px">
          {days.map((day, i) => (
            <label key={day}>
              <input
                type="checkbox"
                checked={to.workDays.includes(i + 1)}
                onChange={(e) =>
                  setTo({ ...to, workDays: [...to.workDays.filter((d) => d !== i + 1), ...(e.target.checked ? [i + 1] : [])].sort() })
                }
              />{" "}
              {day}
            </label>
          ))}
        </Box>
        {problem?.fieldError("workDays") && (
          <Box role="alert" color="cinder" fontSize="13px">
            {problem.fieldError("workDays")}
          </Box>
        )}
      </chakra.fieldset>
      <Holidays days={to.holidays} onChange={(holidays) => setTo({ ...to, holidays })} />
      <Box display="flex" columnGap="6" flexWrap="wrap">
        {number("targetMinutes", "Target: minutes to first touch", "in working hours")}
        {number("mostADay", "Automatic messages to a lead in a day", "0: any number; more wait until a day has passed")}
        <Field
          label={`Price of a text’s segment, in hundredths of ${now.currency}`}
          error={problem?.fieldError("segmentPrice")}
          hint={`${now.segments.toLocaleString("en-GB")} segments went out this month${cost === null ? "" : `: ${cost.toLocaleString("en-GB", { style: "currency", currency: now.currency })}`}.`}
        >
          {(ids) => (
            <Input
              {...ids}
              type="number"
              step="0.01"
              min={0}
              width="110px"
              value={to.segmentPrice ?? ""}
              onChange={(e) => setTo({ ...to, segmentPrice: e.target.value === "" ? null : Number(e.target.value) })}
            />
          )}
        </Field>
      </Box>
      <Box display="flex" gap="4" alignItems="center" mb="2">
        <Button type="submit" look={changed ? "primary" : "plain"} disabled={!changed || save.isPending}>
          Keep these hours
        </Button>
        <Button type="button" look="quiet" fontSize="14px" aria-expanded={laws} onClick={() => setLaws(!laws)}>
          What no fuse goes beyond
        </Button>
        {save.isSuccess && !changed && (
          <Box role="status" fontSize="14px" color="ink2">
            kept
          </Box>
        )}
      </Box>
      {save.error && !problem?.more.errors && <ErrorTold error={save.error} />}
      {laws && (
        <Box overflowX="auto" mb="2">
          <chakra.table fontSize="13px">
            <thead>
              <tr>
                {["Number from", "for", "hours, on the lead’s clock", "where it is written"].map((h) => (
                  <chakra.th key={h} textAlign="left" fontWeight={400} color="ink2" pr="5" py="1">
                    {h}
                  </chakra.th>
                ))}
              </tr>
            </thead>
            <tbody>
              {now.laws.map((law) => (
                <tr key={`${law.country} ${law.for}`}>
                  <chakra.td pr="5" py="1">
                    {law.country ?? "anywhere else"}
                  </chakra.td>
                  <chakra.td pr="5">{law.for}</chakra.td>
                  <chakra.td pr="5" fontFamily="mono">
                    {law.hours}
                  </chakra.td>
                  <chakra.td>{law.source}</chakra.td>
                </tr>
              ))}
            </tbody>
          </chakra.table>
        </Box>
      )}
    </chakra.form>
  );
}

function Holidays({ days: closed, onChange }: { days: readonly Schemas["Holiday"][]; onChange: (days: Schemas["Holiday"][]) => void }) {
  const [day, setDay] = useState("");
  const [name, setName] = useState("");
  return (
    <chakra.fieldset mb="3">
      <chakra.legend fontSize="13px" color="ink2" mb="1">
        but not on
      </chakra.legend>
      {closed.map((h) => (
        <Box key={h.day} display="flex" gap="3" alignItems="center" fontSize="14px" minH="30px">
          <Box fontFamily="mono">{h.day}</Box>
          <Box>{h.name}</Box>
          <Button
            type="button"
            size="small"
            look="soft"
            aria-label={`Work on ${h.day}`}
            onClick={() => onChange(closed.filter((c) => c.day !== h.day))}
          >
            Take out
          </Button>
        </Box>
      ))}
      <Box display="flex" gap="3" flexWrap="wrap" alignItems="center">
        <Input aria-label="Day off" type="date" width="170px" value={day} onChange={(e) => setDay(e.target.value)} />
        <Input aria-label="Its name" placeholder="its name" width="200px" value={name} onChange={(e) => setName(e.target.value)} />
        <Button
          type="button"
          size="small"
          disabled={!day || closed.some((c) => c.day === day)}
          onClick={() => {
            onChange([...closed, { day, name }].sort((a, b) => a.day.localeCompare(b.day)));
            setDay("");
            setName("");
          }}
        >
          Add the day
        </Button>
      </Box>
    </chakra.fieldset>
  );
}
