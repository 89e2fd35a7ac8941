import { Box } from "@chakra-ui/react";
import { withBand, withoutBand } from "@/features/fuses/model/editing";
import { withBandMoved } from "@/features/fuses/model/moving";
import { type Band, type Entry, entryOf, type Only } from "@/features/fuses/model/sheetLayout";
import type { SideProps } from "@/features/fuses/model/sheetProps";
import { keepClip } from "@/features/fuses/model/useClip";
import { Button } from "@/ui/Button";
import { Field, Input, Select } from "@/ui/Field";
import { FaultsHere, SideSheet } from "@/ui/SideSheet";
import { EventDetails } from "./EventDetails";
import { Check, MaybeRules, RuleSetEditor } from "./RuleSetEditor";
import { SpanInput } from "./SpanInput";

const kinds: [Entry["kind"], string][] = [
  ["always", "always, whenever the fuse is lit"],
  ["when", "when rules hold as it is lit"],
  ["otherwise", "otherwise, when no rules held"],
  ["on", "on an event: a reply, a tag, a stage …"],
  ["silence", "on silence for a time after a step"],
  ["failed", "when a step fails"],
  ["end", "when another band has come to its end"],
];

// Names that are proposed by how a band is entered; one that a person wrote stays.
const proposed: Record<Entry["kind"], string> = {
  always: "Always",
  when: "A new case",
  otherwise: "All others",
  on: "They replied",
  silence: "No reply",
  failed: "It failed",
  end: "After that",
};

/** A band's entry, as a sentence whose parts can be changed. */
export function BandSheet({ band, whole, definition, draft, mayEdit, close }: SideProps & { band: Band }) {
  const change = (next: Partial<Band>, typing?: string) =>
    draft.act({ type: "edit", to: withBand(definition, band.id, (b) => ({ ...b, ...next })), typing: typing && `${band.id}.${typing}` });
  const { entry } = band;
  const set = (next: Partial<Entry>) => change({ entry: { ...entry, ...next } });
  const rules = entry.rules ?? { match: "all" as const, rules: [] };
  const steps = definition.bands.flatMap((b) => b.steps);
  const later = entry.kind !== "always" && entry.kind !== "when" && entry.kind !== "otherwise";
  const become = (kind: Entry["kind"]) => {
    const first = steps.find((s) => whole.around.kinds.find((k) => k.key === s.kind)?.lane === "lead") ?? steps[0];
    const before = definition.bands.find((b) => b.id !== band.id);
    change({
      eachTime: false,
      name: band.name === "" || Object.values(proposed).includes(band.name) ? proposed[kind] : band.name,
      entry: entryOf(kind, {
        ...(kind === "when" ? { rules } : {}),
        ...(kind === "on" ? { event: "replied", only: { meaning: ["yes"] } } : {}),
        ...(kind === "silence" ? { of: first?.id ?? null, forSeconds: 7200 } : {}),
        ...(kind === "end" ? { of: before?.id ?? null } : {}),
      }),
    });
  };
  return (
    <SideSheet title={band.name || "A band"} close={close}>
      <FaultsHere faults={whole.faults.filter((f) => f.bandId === band.id && !f.stepId)} />
      <Box as="fieldset" border="0" {...(mayEdit ? {} : { disabled: true })}>
        <Field label="Name, as the story tells it">
          {(ids) => <Input {...ids} value={band.name} maxLength={80} onChange={(e) => change({ name: e.target.value }, "name")} />}
        </Field>
        <Field label="It is entered">
          {(ids) => (
            <Select {...ids} value={entry.kind} onChange={(e) => become(e.target.value as Entry["kind"])}>
              {kinds.map(([kind, words]) => (
                <option key={kind} value={kind}>
                  {words}
                </option>
              ))}
            </Select>
          )}
        </Field>
        {entry.kind === "when" && (
          <>
            <RuleSetEditor rules={rules} around={whole.around} onChange={(next) => set({ rules: next })} />
            <Field label="Of all ‘when’ bands of this fuse whose rules hold">
              {(ids) => (
                <Select
                  {...ids}
                  value={definition.bandChoice ?? "all"}
                  onChange={(e) => draft.act({ type: "edit", to: { ...definition, bandChoice: e.target.value as "all" | "first" } })}
                >
                  <option value="all">all are entered</option>
                  <option value="first">the first is entered</option>
                </Select>
              )}
            </Field>
          </>
        )}
        {entry.kind === "on" && (
          <>
            <Field label="The event">
              {(ids) => (
                <Select {...ids} value={entry.event ?? ""} onChange={(e) => set({ event: e.target.value, only: null })}>
                  {whole.around.events
                    .filter((e) => e.enters)
                    .map((e) => (
                      <option key={e.key} value={e.key}>
                        {e.sentence}
                      </option>
                    ))}
                </Select>
              )}
            </Field>
            <EventDetails
              event={entry.event ?? ""}
              only={(entry.only ?? {}) as Only}
              around={whole.around}
              definition={definition}
              onChange={(only) => set({ only: Object.keys(only).length > 0 ? only : null })}
            />
          </>
        )}
        {(entry.kind === "silence" || entry.kind === "failed") && (
          <Field label={entry.kind === "silence" ? "After this step was done" : "Which step"}>
            {(ids) => (
              <Select {...ids} value={entry.of ?? ""} onChange={(e) => set({ of: e.target.value || null })}>
                {entry.kind === "failed" ? <option value="">any of them</option> : !entry.of && <option value="">Choose …</option>}
                {steps.map((s) => (
                  <option key={s.id} value={s.id}>
                    {s.name}
                  </option>
                ))}
              </Select>
            )}
          </Field>
        )}
        {entry.kind === "silence" && (
          <SpanInput
            label="They have not written back for"
            seconds={entry.forSeconds}
            onChange={(forSeconds) => set({ forSeconds: Math.max(1, forSeconds) })}
          />
        )}
        {entry.kind === "end" && (
          <Field label="Which band">
            {(ids) => (
              <Select {...ids} value={entry.of ?? ""} onChange={(e) => set({ of: e.target.value })}>
                {!entry.of && <option value="">Choose …</option>}
                {definition.bands
                  .filter((b) => b.id !== band.id)
                  .map((b) => (
                    <option key={b.id} value={b.id}>
                      {b.name}
                    </option>
                  ))}
              </Select>
            )}
          </Field>
        )}
        {later && (
          <>
            <MaybeRules label="… and only when" rules={entry.rules} around={whole.around} onChange={(next) => set({ rules: next })} />
            <Check
              on={band.eachTime}
              label="each time it happens, its clock beginning anew"
              onChange={(eachTime) => change({ eachTime })}
            />
          </>
        )}
      </Box>
      {mayEdit && (
        <Box display="flex" gap="2" flexWrap="wrap" mt="3">
          <Button
            look="soft"
            size="small"
            disabled={definition.bands[0]?.id === band.id}
            onClick={() => draft.act({ type: "edit", to: withBandMoved(definition, band.id, false) })}
          >
            Move up
          </Button>
          <Button
            look="soft"
            size="small"
            disabled={definition.bands.at(-1)?.id === band.id}
            onClick={() => draft.act({ type: "edit", to: withBandMoved(definition, band.id, true) })}
          >
            Move down
          </Button>
          <Button look="soft" size="small" onClick={() => keepClip({ band })}>
            Copy the band
          </Button>
          {definition.bands.length > 1 && (
            <Button
              look="soft"
              size="small"
              onClick={() => {
                draft.act({ type: "edit", to: withoutBand(definition, band.id) });
                close();
              }}
            >
              Take the band out
            </Button>
          )}
        </Box>
      )}
    </SideSheet>
  );
}
