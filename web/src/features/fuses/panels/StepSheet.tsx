import { Box, chakra } from "@chakra-ui/react";
import type { Schemas } from "@/api/client";
import { withoutStep, withStep } from "@/features/fuses/model/editing";
import type { Around, Step } from "@/features/fuses/model/sheetLayout";
import type { SideProps } from "@/features/fuses/model/sheetProps";
import { keepClip } from "@/features/fuses/model/useClip";
import { Button } from "@/ui/Button";
import { Field, Input, Select } from "@/ui/Field";
import { FaultsHere, SideSheet } from "@/ui/SideSheet";
import { OrderedPart } from "./OrderedPart";
import { counts, JsonBody, Pairs, pairsOf } from "./OwnNames";
import { MaybeRules } from "./RuleSetEditor";
import { connectionSetting, ServiceSetting, ThroughPart } from "./ServiceSettings";
import { ChoicesPart, FailurePart, HoursPart, MomentPart, ReadyPart } from "./StepParts";
import { TryStep } from "./TryStep";
import { WordsEditor } from "./WordsEditor";

/** One thing done: when, where to, in which words, and how those words look for a real lead. */
export function StepSheet({ step, whole, definition, draft, mayEdit, close }: SideProps & { step: Step }) {
  const { around } = whole;
  const kind = around.kinds.find((k) => k.key === step.kind);
  const band = definition.bands.find((b) => b.steps.some((s) => s.id === step.id));
  const change = (next: Partial<Step>, typing?: string) =>
    draft.act({ type: "edit", to: withStep(definition, step.id, (s) => ({ ...s, ...next })), typing: typing && `${step.id}.${typing}` });
  const set = (key: string, value: string, typing?: string) => change({ settings: { ...step.settings, [key]: value } }, typing);
  const results = kind
    ? [...kind.results, ...(kind.resultsFrom ? pairsOf(kind.resultsFrom, step.settings).map(([name]) => name) : [])]
    : [];
  const faults = whole.faults.filter((f) => f.stepId === step.id);
  const speaks = kind?.lane === "lead" || kind?.lane === "team";
  const isText = step.kind === "text" || step.kind === "team-text";
  return (
    <SideSheet title={step.name || "A step"} close={close}>
      <FaultsHere faults={faults} />
      <Box as="fieldset" border="0" {...(mayEdit ? {} : { disabled: true })}>
        <Field label="Name, as the story tells it">
          {(ids) => <Input {...ids} value={step.name} maxLength={80} onChange={(e) => change({ name: e.target.value }, "name")} />}
        </Field>
        {kind?.service && (
          <ThroughPart
            service={kind.service}
            chosen={step.settings[connectionSetting] ?? ""}
            around={around}
            onChange={(v) => set(connectionSetting, v)}
          />
        )}
        <MomentPart moment={step.moment} lane={kind?.lane ?? "team"} around={around} onChange={(moment) => change({ moment })} />
        {kind?.settings
          .filter((s) => counts(s, step.settings))
          .map((setting) =>
            setting.type === "json" ? (
              <JsonBody key={setting.key} setting={setting} step={step} onChange={(settings, typing) => change({ settings }, typing)} />
            ) : setting.type === "pairs" ? (
              <Pairs key={setting.key} setting={setting} step={step} onChange={(settings, typing) => change({ settings }, typing)} />
            ) : shortLines.has(setting.key) && setting.type === "line" ? (
              <Field key={setting.key} label={setting.label} hint={setting.hint ?? undefined}>
                {(ids) => (
                  <Input
                    {...ids}
                    value={step.settings[setting.key] ?? ""}
                    onChange={(e) => set(setting.key, e.target.value, setting.key)}
                  />
                )}
              </Field>
            ) : setting.type === "words" || setting.type === "line" ? (
              <WordsEditor
                key={setting.key}
                label={setting.label}
                asText={isText}
                line={setting.type === "line"}
                hint={setting.hint}
                optional={setting.optional}
                words={step.settings[setting.key] ?? ""}
                whole={whole}
                definition={definition}
                step={step}
                rules={band?.entry.kind === "when" ? (band.entry.rules ?? null) : null}
                mayEdit={mayEdit}
                onChange={(value, typing) => set(setting.key, value, typing ? setting.key : undefined)}
              />
            ) : setting.type === "columns" || setting.type === "listed" || setting.type === "choice" ? (
              <ServiceSetting
                key={setting.key}
                setting={setting}
                step={step}
                whole={whole}
                definition={definition}
                rules={band?.entry.kind === "when" ? (band.entry.rules ?? null) : null}
                mayEdit={mayEdit}
                onChange={(settings, typing) => change({ settings }, typing)}
              />
            ) : (
              <Target
                key={setting.key}
                setting={setting}
                value={step.settings[setting.key] ?? ""}
                around={around}
                fuseId={whole.fuse.id}
                onChange={(v) => set(setting.key, v)}
              />
            ),
          )}
        {step.kind === "text" && <ChoicesPart choices={step.choices ?? []} onChange={(choices) => change({ choices })} />}
        {kind?.settings.some((s) => s.key === "words") && (
          <ReadyPart
            step={step}
            around={around}
            onTake={(words) =>
              change({
                ready: { key: words.key, version: words.version },
                settings: {
                  ...step.settings,
                  words: words.words,
                  ...(words.subject && "subject" in step.settings ? { subject: words.subject } : {}),
                },
              })
            }
            onLeave={() => change({ ready: null })}
          />
        )}
        <MaybeRules label="Only when" rules={step.when} around={around} onChange={(when) => change({ when })} />
        {speaks && kind?.service && (
          <HoursPart
            hours={step.hours ?? null}
            lane={kind.lane}
            rings={step.kind === "ring-through"}
            sendHours={around.sendHours}
            onChange={(hours) => change({ hours })}
          />
        )}
        {kind?.service && (
          <FailurePart
            failure={step.onFailure ?? null}
            lane={kind.lane}
            others={(band?.steps ?? []).filter((s) => s.id !== step.id)}
            around={around}
            onChange={(onFailure) => change({ onFailure })}
          />
        )}
      </Box>
      <Box fontSize="13px" color="ink2" mb="3">
        {kind?.service ? `Sent through ${kind.service}. ` : "Done here, at once. "}
        {kind?.lane === "lead" ? "Held back for who opted out, and checked again at each attempt. " : ""}
        {kind && results.length > 0 && (
          <>
            Later steps can use{" "}
            {results.map((r) => (
              <Box as="code" key={r} fontFamily="mono" fontSize="12px" mr="1">
                {`{{ steps.${step.id}.${r} }}`}
              </Box>
            ))}
          </>
        )}
      </Box>
      {mayEdit && kind?.service && (
        <TryStep
          key={`${step.id} try`}
          step={step}
          clientId={whole.fuse.clientId}
          broken={faults.some((f) => f.blocks)}
          message={kind.lane !== "systems"}
        />
      )}
      {mayEdit && (
        <Box display="flex" gap="2" flexWrap="wrap">
          <Button look="soft" size="small" onClick={() => keepClip({ step })}>
            Copy
          </Button>
          <Button
            look="soft"
            size="small"
            onClick={() => {
              keepClip({ step });
              draft.act({ type: "edit", to: withoutStep(definition, step.id) });
              close();
            }}
          >
            Cut
          </Button>
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
        </Box>
      )}
    </SideSheet>
  );
}

// Written out as a rule: an editor of words with its preview for each would bury the words themselves. Fields in braces work here too.
const shortLines = new Set(["sender", "picture", "from", "reply", "recording", "team-sees", "lead-sees"]);

type TargetProps = {
  setting: Schemas["StepSetting"];
  value: string;
  around: Around;
  fuseId: string;
  onChange: (v: string) => void;
};

function Target({ setting, value, around, fuseId, onChange }: TargetProps) {
  if (setting.type === "colleagues")
    return (
      <OrderedPart
        label={setting.label}
        value={value}
        known={[
          ["owner", "whoever answers for them"],
          ["team", "everybody who reaches out, by name"],
          ...around.colleagues.map((c): [string, string] => [c.id, c.name]),
        ]}
        gone="somebody who is not here any more"
        out="not them"
        onChange={onChange}
      />
    );
  if (setting.type === "blocks")
    return (
      <OrderedPart
        label={setting.label}
        hint={setting.hint}
        value={value}
        known={[
          ["answers", "all they answered, in the words of the form"],
          ["name", "name"],
          ...around.fields.map((f): [string, string] => [f.key, f.label.toLowerCase()]),
        ]}
        gone="a field that nothing fills"
        out="leave out"
        onChange={onChange}
      />
    );
  if (setting.type === "files")
    return (
      <OrderedPart
        label={setting.label}
        hint={around.files.length === 0 ? "The library, under Setup, is empty." : null}
        value={value}
        known={around.files.map((f): [string, string] => [f.id, f.name])}
        gone="a file that is not in the library any more"
        out="leave out"
        onChange={onChange}
      />
    );
  if (setting.type === "links") return <Links setting={setting} value={value} onChange={onChange} />;
  const options = optionsOf(setting, around, fuseId);
  if (setting.type === "tag" || !options) {
    return (
      <Field
        label={setting.label}
        hint={options === null ? "The chat did not answer just now, so its list cannot be shown; what is set stays." : undefined}
      >
        {(ids) => (
          <>
            <Input {...ids} value={value} list={`${ids.id}-known`} onChange={(e) => onChange(e.target.value)} />
            <datalist id={`${ids.id}-known`}>
              {around.tags.map((t) => (
                <option key={t} value={t} />
              ))}
            </datalist>
          </>
        )}
      </Field>
    );
  }
  const known = options.some(([key]) => key === value);
  return (
    <Field label={setting.label} error={value && !known ? `'${value}' is not there any more.` : null}>
      {(ids) => (
        <Select {...ids} value={value} onChange={(e) => onChange(e.target.value)}>
          {!known && <option value={value}>{value || "Choose …"}</option>}
          {options.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </Select>
      )}
    </Field>
  );
}

// Any of a few, in the order in which they are offered.
function Links({ setting, value, onChange }: Pick<TargetProps, "setting" | "value" | "onChange">) {
  const has = new Set(value.split(",").filter(Boolean));
  const choices = setting.choices ?? [];
  return (
    <chakra.fieldset mb="4">
      <chakra.legend fontSize="13px" color="ink2" mb="1">
        {setting.label}
      </chakra.legend>
      <Box display="flex" gap="4" flexWrap="wrap">
        {choices.map((choice) => (
          <chakra.label key={choice.value} fontSize="14px">
            <input
              type="checkbox"
              checked={has.has(choice.value)}
              onChange={(e) =>
                onChange(
                  choices
                    .map((c) => c.value)
                    .filter((v) => (v === choice.value ? e.target.checked : has.has(v)))
                    .join(","),
                )
              }
            />{" "}
            {choice.label}
          </chakra.label>
        ))}
      </Box>
    </chakra.fieldset>
  );
}

// What can be chosen; `null` where the chat could not be asked, nothing where anything may be typed.
function optionsOf(setting: Schemas["StepSetting"], around: Around, fuseId: string): [string, string][] | null | undefined {
  const named = (targets: readonly Schemas["ConnectionTarget"][] | null) => targets?.map((t): [string, string] => [t.key, t.name]) ?? null;
  switch (setting.type) {
    case "channel":
      return named(around.channels);
    case "person":
      return named(around.people) && [["owner", "whoever answers for them"], ...(named(around.people) ?? [])];
    case "colleague":
      return [
        ["owner", "whoever answers for them"],
        ...(setting.choices ?? []).map((c): [string, string] => [c.value, c.label]),
        ...around.colleagues.map((c): [string, string] => [c.id, c.name]),
      ];
    case "field":
      return around.fields.map((f) => [f.key, f.label.toLowerCase()]);
    case "stage":
      return around.stages.map((s) => [s, s]);
    case "fuse":
      return around.fuses.filter((f) => f.id !== fuseId).map((f) => [f.id, f.armed ? f.name : `${f.name} (not armed)`]);
    default:
      return undefined;
  }
}
