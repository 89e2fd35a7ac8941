import { Box } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field, Input, Select } from "@/ui/Field";
import { withoutStep, withStep } from "./editing";
import type { SideProps } from "./RunSheetPage";
import { FaultsHere, SideSheet } from "./SideSheet";
import { momentWords, type Step, usualMoments } from "./sheetLayout";
import { WordsEditor } from "./WordsEditor";

const day = 86_400;
const offered = [...usualMoments, 7200, day, 2 * day, 3 * day];
const units = { s: 1, min: 60, h: 3600, days: day } as const;
type Unit = keyof typeof units;

/** One thing done: when, where to, in which words, and how those words look for a real lead. */
export function StepSheet({ step, whole, definition, draft, mayEdit, close }: SideProps & { step: Step }) {
  const kind = whole.around.kinds.find((k) => k.key === step.kind);
  const band = definition.bands.find((b) => b.steps.some((s) => s.id === step.id));
  const change = (next: Partial<Step>, typing?: string) =>
    draft.act({ type: "edit", to: withStep(definition, step.id, (s) => ({ ...s, ...next })), typing: typing && `${step.id}.${typing}` });
  const set = (key: string, value: string, typing?: string) => change({ settings: { ...step.settings, [key]: value } }, typing);
  return (
    <SideSheet title={step.name || "A step"} close={close}>
      <FaultsHere faults={whole.faults.filter((f) => f.stepId === step.id)} />
      <Box as="fieldset" border="0" {...(mayEdit ? {} : { disabled: true })}>
        <Field label="Name, as the story tells it">
          {(ids) => <Input {...ids} value={step.name} maxLength={80} onChange={(e) => change({ name: e.target.value }, "name")} />}
        </Field>
        <Moment
          seconds={step.afterSeconds}
          lane={kind?.lane ?? "team"}
          hours={whole.around.sendHours}
          onChange={(s) => change({ afterSeconds: s })}
        />
        {kind?.settings.map((setting) =>
          setting.type === "words" ? (
            <WordsEditor
              key={setting.key}
              label={setting.label}
              asText={kind.lane === "lead"}
              words={step.settings[setting.key] ?? ""}
              whole={whole}
              forms={definition.litBy.flatMap((l) => l.forms)}
              rules={band?.entry.kind === "when" ? (band.entry.rules ?? null) : null}
              mayEdit={mayEdit}
              onChange={(value, typing) => set(setting.key, value, typing ? setting.key : undefined)}
            />
          ) : (
            <Target
              key={setting.key}
              label={setting.label}
              value={step.settings[setting.key] ?? ""}
              targets={setting.type === "channel" ? whole.around.channels : whole.around.people}
              onChange={(v) => set(setting.key, v)}
            />
          ),
        )}
      </Box>
      <Box fontSize="13px" color="ink2" mb="3">
        Sent through {kind?.service ?? "nothing"}.{" "}
        {kind?.lane === "lead" ? "Held back outside send hours, and for who opted out; checked again at each attempt." : ""}
      </Box>
      {mayEdit && (
        <Button
          look="soft"
          size="small"
          onClick={() => {
            draft.act({ type: "edit", to: withoutStep(definition, step.id) });
            close();
          }}
        >
          Take the step out
        </Button>
      )}
    </SideSheet>
  );
}

function Target({
  label,
  value,
  targets,
  onChange,
}: {
  label: string;
  value: string;
  targets: readonly Schemas["ConnectionTarget"][] | null;
  onChange: (v: string) => void;
}) {
  if (!targets) {
    return (
      <Field label={label} hint="The chat did not answer just now, so its list cannot be shown; what is set stays.">
        {(ids) => <Input {...ids} value={value} onChange={(e) => onChange(e.target.value)} />}
      </Field>
    );
  }
  const known = targets.some((t) => t.key === value);
  return (
    <Field label={label} error={value && !known ? `'${value}' is not there any more.` : null}>
      {(ids) => (
        <Select {...ids} value={value} onChange={(e) => onChange(e.target.value)}>
          {!known && <option value={value}>{value || "Choose …"}</option>}
          {targets.map((t) => (
            <option key={t.key} value={t.key}>
              {t.name}
            </option>
          ))}
        </Select>
      )}
    </Field>
  );
}

function Moment({
  seconds,
  lane,
  hours,
  onChange,
}: {
  seconds: number;
  lane: Schemas["Lane"];
  hours: string;
  onChange: (seconds: number) => void;
}) {
  const [own, setOwn] = useState(!offered.includes(seconds));
  const unit: Unit =
    seconds % day === 0 && seconds > 0
      ? "days"
      : seconds % 3600 === 0 && seconds > 0
        ? "h"
        : seconds % 60 === 0 && seconds > 0
          ? "min"
          : "s";
  const pick = (value: string) => {
    setOwn(value === "own");
    if (value !== "own") onChange(Number(value));
  };
  return (
    <>
      <Field
        label="Goes out, after the band lit"
        hint={lane === "lead" ? `Between ${hours} where they are; else it waits for them to open.` : null}
      >
        {(ids) => (
          <Select {...ids} value={own ? "own" : seconds} onChange={(e) => pick(e.target.value)}>
            {offered.map((s) => (
              <option key={s} value={s}>
                {momentWords(s)}
              </option>
            ))}
            <option value="own">after a time of your own</option>
          </Select>
        )}
      </Field>
      {own && (
        <Box display="flex" gap="2" mb="3">
          <Input
            aria-label="How many"
            type="number"
            min={0}
            value={Math.round(seconds / units[unit])}
            onChange={(e) => onChange(Math.max(0, Math.round(Number(e.target.value))) * units[unit])}
          />
          <Select
            aria-label="Unit"
            value={unit}
            onChange={(e) => onChange(Math.round(seconds / units[unit]) * units[e.target.value as Unit])}
          >
            <option value="s">seconds</option>
            <option value="min">minutes</option>
            <option value="h">hours</option>
            <option value="days">days</option>
          </Select>
        </Box>
      )}
    </>
  );
}
