import { Box } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "@/api/client";
import {
  type Around,
  inSeconds,
  type Lane,
  type Moment,
  momentWords,
  onCalendar,
  type Step,
  usualMoments,
} from "@/features/fuses/model/sheetLayout";
import { Button } from "@/ui/Button";
import { Field, Input, Select } from "@/ui/Field";
import { ListArea } from "@/ui/ListInput";
import { SpanInput } from "./SpanInput";

const offered = [...usualMoments, 7200];

/** When a step is done: after a time, or on a day at an hour, counted from the band or from the submission. */
export function MomentPart({
  moment,
  lane,
  around,
  onChange,
}: {
  moment: Moment;
  lane: Lane;
  around: Around;
  onChange: (moment: Moment) => void;
}) {
  const [own, setOwn] = useState(!onCalendar(moment) && !offered.includes(moment.afterSeconds));
  const calendar = onCalendar(moment);
  const pick = (value: string) => {
    setOwn(value === "own");
    if (value === "day") onChange({ ...moment, afterSeconds: 0, days: Math.max(1, moment.days), at: moment.at ?? "09:30" });
    else if (value === "own") onChange({ ...inSeconds(calendar ? 600 : moment.afterSeconds), from: moment.from });
    else onChange({ ...inSeconds(Number(value)), from: moment.from });
  };
  return (
    <>
      <Field label="It is done, after the band lit">
        {(ids) => (
          <Select {...ids} value={calendar ? "day" : own ? "own" : moment.afterSeconds} onChange={(e) => pick(e.target.value)}>
            {offered.map((s) => (
              <option key={s} value={s}>
                {momentWords(s)}
              </option>
            ))}
            <option value="own">after a time of your own</option>
            <option value="day">on a day, at an hour</option>
          </Select>
        )}
      </Field>
      {own && !calendar && (
        <SpanInput label="How long after" seconds={moment.afterSeconds} onChange={(s) => onChange({ ...moment, afterSeconds: s })} />
      )}
      {calendar && (
        <Box display="flex" gap="2">
          <Field label="Days after">
            {(ids) => (
              <Input
                {...ids}
                type="number"
                min={0}
                max={400}
                value={moment.days}
                onChange={(e) => onChange({ ...moment, days: Math.max(0, Math.round(Number(e.target.value))) })}
              />
            )}
          </Field>
          <Field label="counted in">
            {(ids) => (
              <Select
                {...ids}
                value={moment.working ? "working" : "all"}
                onChange={(e) => onChange({ ...moment, working: e.target.value === "working" })}
              >
                <option value="all">days</option>
                <option value="working">working days</option>
              </Select>
            )}
          </Field>
          <Field label="at">
            {(ids) => (
              <Input {...ids} type="time" value={moment.at ?? ""} onChange={(e) => onChange({ ...moment, at: e.target.value || null })} />
            )}
          </Field>
        </Box>
      )}
      {(own || calendar || moment.from === "submission") && (
        <Field
          label="counted from"
          hint={calendar ? `On the clock of ${lane === "lead" ? "the lead's own zone" : around.zone}.` : undefined}
        >
          {(ids) => (
            <Select
              {...ids}
              value={moment.from ?? "band"}
              onChange={(e) => onChange({ ...moment, from: e.target.value as "band" | "submission" })}
            >
              <option value="band">when the band lit</option>
              <option value="submission">when they asked</option>
            </Select>
          )}
        </Field>
      )}
    </>
  );
}

type Hours = Schemas["StepHours"];

/** In which hours it may go out, and what to do outside them. */
export function HoursPart({
  hours,
  lane,
  rings = false,
  sendHours,
  onChange,
}: {
  hours: Hours | null;
  lane: Lane;
  rings?: boolean;
  sendHours: string;
  onChange: (hours: Hours | null) => void;
}) {
  const usual = rings ? "working" : lane === "lead" ? "send" : "none";
  const kind = hours?.kind ?? usual;
  const become = (next: string) =>
    onChange(next === usual ? null : { kind: next as Hours["kind"], outside: hours?.outside ?? "wait", from: "09:00", to: "18:00" });
  return (
    <>
      <Field
        label="Goes out"
        hint={
          rings
            ? "On the team’s clock. Where the lead is, the hours that the law names for calls are kept too, or 08:00–21:00."
            : lane === "lead" && kind === "none"
              ? "A text still keeps the hours that the law names, or 07:00–22:00."
              : undefined
        }
      >
        {(ids) => (
          <Select {...ids} value={kind} onChange={(e) => become(e.target.value)}>
            <option value="send">in send hours, {sendHours}</option>
            <option value="working">in the client's working hours</option>
            <option value="own">in hours of its own</option>
            <option value="none">at any hour</option>
          </Select>
        )}
      </Field>
      {kind === "own" && hours && (
        <Box display="flex" gap="2">
          <Field label="from">
            {(ids) => (
              <Input {...ids} type="time" value={hours.from ?? ""} onChange={(e) => onChange({ ...hours, from: e.target.value })} />
            )}
          </Field>
          <Field label="to">
            {(ids) => <Input {...ids} type="time" value={hours.to ?? ""} onChange={(e) => onChange({ ...hours, to: e.target.value })} />}
          </Field>
        </Box>
      )}
      {kind !== "none" && (
        <Field label="Outside them">
          {(ids) => (
            <Select
              {...ids}
              value={hours?.outside ?? "wait"}
              onChange={(e) => onChange({ ...(hours ?? { kind }), kind, outside: e.target.value as Hours["outside"] })}
            >
              <option value="wait">it waits until they open</option>
              <option value="skip">it is left out</option>
              <option value="send">it goes all the same, where the law allows</option>
            </Select>
          )}
        </Field>
      )}
    </>
  );
}

type Failure = Schemas["StepFailure"];

/** How long it is tried, and what follows when it could not be delivered. */
export function FailurePart({
  failure,
  lane,
  others,
  around,
  onChange,
}: {
  failure: Failure | null;
  lane: Lane;
  others: readonly Step[];
  around: Around;
  onChange: (failure: Failure | null) => void;
}) {
  const now = failure ?? { retry: "usual" as const, next: "go-on" as const };
  const set = (part: Partial<Failure>) => {
    const to = { ...now, ...part };
    onChange(to.retry === "usual" && to.next === "go-on" ? null : to);
  };
  return (
    <>
      <Field label="When it cannot be delivered, it is tried">
        {(ids) => (
          <Select {...ids} value={now.retry} onChange={(e) => set({ retry: e.target.value as Failure["retry"] })}>
            <option value="quick">three times in ten seconds</option>
            <option value="usual">{lane === "systems" ? "as usual: for a day" : "as usual: twelve times over half an hour"}</option>
            <option value="patient">for a day</option>
          </Select>
        )}
      </Field>
      <Field label="and then">
        {(ids) => (
          <Select
            {...ids}
            value={now.next}
            onChange={(e) => {
              const next = e.target.value as NonNullable<Failure["next"]>;
              set({
                next,
                person: next === "tell" ? (now.person ?? "owner") : null,
                step: next === "instead" ? (others[0]?.id ?? null) : null,
              });
            }}
          >
            <option value="go-on">the others go on</option>
            <option value="stop">the fuse stops</option>
            <option value="tell">somebody is unwrap</option>
            {others.length > 0 && <option value="instead">another step is done instead</option>}
          </Select>
        )}
      </Field>
      {now.next === "tell" && (
        <Field label="Who">
          {(ids) => (
            <Select {...ids} value={now.person ?? "owner"} onChange={(e) => set({ person: e.target.value })}>
              <option value="owner">whoever answers for them</option>
              {around.colleagues.map((c) => (
                <option key={c.id} value={c.id}>
                  {c.name}
                </option>
              ))}
            </Select>
          )}
        </Field>
      )}
      {now.next === "instead" && (
        <Field label="Which step" hint="It is done only then.">
          {(ids) => (
            <Select {...ids} value={now.step ?? ""} onChange={(e) => set({ step: e.target.value })}>
              {others.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                </option>
              ))}
            </Select>
          )}
        </Field>
      )}
    </>
  );
}

/** What they may answer with, one a line. */
export function ChoicesPart({ choices, onChange }: { choices: readonly string[]; onChange: (choices: string[] | null) => void }) {
  return (
    <Field
      label="They may choose from, one a line"
      hint="Put {{ choices }} into the words: they are numbered there. A reply by number, order or word is understood."
    >
      {(ids) => (
        <ListArea
          {...ids}
          rows={Math.max(2, choices.length + 1)}
          fontFamily="mono"
          fontSize="13px"
          values={choices}
          onChange={(lines) => onChange(lines.length > 0 ? lines : null)}
        />
      )}
    </Field>
  );
}

type ReadyProps = { step: Step; around: Around; onTake: (words: Schemas["ContextWords"]) => void; onLeave: () => void };

/** Words ready for use: take some, or a newer version of those taken. */
export function ReadyPart({ step, around, onTake, onLeave }: ReadyProps) {
  const taken = step.ready && around.words.find((w) => w.key === step.ready?.key);
  const differs = taken && taken.version === step.ready?.version && step.settings.words !== taken.words;
  if (around.words.length === 0) return null;
  return (
    <Box mb="3" fontSize="13px" color="ink2">
      {taken && step.ready ? (
        <>
          From “{taken.name}”, version {step.ready.version}
          {differs ? ", changed here" : ""}.{" "}
          {taken.version > step.ready.version && (
            <Button look="quiet" fontSize="13px" onClick={() => onTake(taken)}>
              Take version {taken.version}
            </Button>
          )}{" "}
          <Button look="quiet" fontSize="13px" fontWeight={400} onClick={onLeave}>
            Leave them
          </Button>
        </>
      ) : (
        <Select
          aria-label="Take words ready for use"
          value=""
          onChange={(e) => {
            const words = around.words.find((w) => w.key === e.target.value);
            if (words) onTake(words);
          }}
        >
          <option value="">Take words ready for use …</option>
          {around.words.map((w) => (
            <option key={w.key} value={w.key}>
              {w.name}, version {w.version}
            </option>
          ))}
        </Select>
      )}
    </Box>
  );
}
