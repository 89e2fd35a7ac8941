import { Box } from "@chakra-ui/react";
import type { Schemas } from "@/api/client";
import type { Around, Definition, Only } from "@/features/fuses/model/sheetLayout";
import type { SideProps } from "@/features/fuses/model/sheetProps";
import { Button } from "@/ui/Button";
import { Field, Input, Select } from "@/ui/Field";
import { FaultsHere, SideSheet } from "@/ui/SideSheet";
import { EventDetails } from "./EventDetails";
import { Check, MaybeRules } from "./RuleSetEditor";

type LitBy = Schemas["LitBy"];
const weekdays = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/** What lights the fuse, what a second lighting does, and what stops it. */
export function LitBySheet({ whole, definition, draft, mayEdit, close }: SideProps) {
  const { around } = whole;
  const change = (next: Partial<Definition>, typing?: string) =>
    draft.act({ type: "edit", to: { ...definition, ...next }, typing: typing && `fuse.${typing}` });
  const ways = definition.litBy;
  const setWay = (i: number, way: LitBy) => change({ litBy: ways.map((w, at) => (at === i ? way : w)) });
  return (
    <SideSheet title="Lit by, relit, stopped" close={close}>
      <FaultsHere faults={whole.faults.filter((f) => !f.bandId && !f.stepId)} />
      <Box as="fieldset" border="0" {...(mayEdit ? {} : { disabled: true })}>
        {ways.map((way, i) => (
          <Way
            // biome-ignore lint/suspicious/noArrayIndexKey: ways have no other name
            key={i}
            way={way}
            first={i === 0}
            around={around}
            definition={definition}
            onChange={(next) => setWay(i, next)}
            onRemove={ways.length > 1 ? () => change({ litBy: ways.filter((_, at) => at !== i) }) : undefined}
          />
        ))}
        <Button look="soft" size="small" mb="4" onClick={() => change({ litBy: [...ways, { event: "tagged" }] })}>
          Also lit by
        </Button>
        <Field label="When the same person lights it again, it burns">
          {(ids) => (
            <Select
              {...ids}
              value={definition.relight ?? "when-last-ended"}
              onChange={(e) => change({ relight: e.target.value as Schemas["Relight"] })}
            >
              <option value="when-last-ended">only when the last has ended</option>
              <option value="always">each time</option>
              <option value="once-in-days">once in so many days</option>
              <option value="once">never again: once for a lead</option>
            </Select>
          )}
        </Field>
        {definition.relight === "once-in-days" && (
          <Field label="Days">
            {(ids) => (
              <Input
                {...ids}
                type="number"
                min={1}
                value={definition.relightDays ?? 30}
                onChange={(e) => change({ relightDays: Math.round(Number(e.target.value)) }, "days")}
              />
            )}
          </Field>
        )}
        <Stops around={around} definition={definition} onChange={(stopOn) => change({ stopOn })} />
        <Field label="It speaks to the lead at most so many hours late" hint="Later than that, it is cancelled and the story says why.">
          {(ids) => (
            <Input
              {...ids}
              type="number"
              min={1}
              max={720}
              value={definition.ageLimitHours ?? 24}
              onChange={(e) => change({ ageLimitHours: Math.round(Number(e.target.value)) }, "age")}
            />
          )}
        </Field>
        <Field label="After its last step it listens for so many days" hint="For replies and other events that enter a band.">
          {(ids) => (
            <Input
              {...ids}
              type="number"
              min={0}
              max={90}
              value={definition.hearsForDays ?? 7}
              onChange={(e) => change({ hearsForDays: Math.round(Number(e.target.value)) }, "hears")}
            />
          )}
        </Field>
      </Box>
    </SideSheet>
  );
}

type WayProps = {
  way: LitBy;
  first: boolean;
  around: Around;
  definition: Definition;
  onChange: (way: LitBy) => void;
  onRemove: (() => void) | undefined;
};

function Way({ way, first, around, definition, onChange, onRemove }: WayProps) {
  const kind = around.events.find((e) => e.key === way.event);
  const become = (event: string) => {
    const timed = around.events.find((e) => e.key === event)?.timed;
    const dates = around.fields.filter((f) => f.type === "date");
    onChange({
      event,
      when: way.when ?? null,
      timer: timed
        ? { at: "09:00", days: 0, field: event === "date-reached" ? ((dates[0] ?? around.fields[0])?.key ?? null) : null }
        : null,
    });
  };
  return (
    <Box borderLeftWidth="3px" borderColor="ink" pl="3" mb="4">
      <Field label={first ? "Lit when" : "or when"}>
        {(ids) => (
          <Select {...ids} value={way.event} onChange={(e) => become(e.target.value)}>
            {!kind && <option value={way.event}>{way.event}</option>}
            {around.events
              .filter((e) => e.lights)
              .map((e) => (
                <option key={e.key} value={e.key}>
                  {e.sentence}
                </option>
              ))}
          </Select>
        )}
      </Field>
      <EventDetails
        event={way.event}
        only={(way.only ?? {}) as Only}
        around={around}
        definition={definition}
        onChange={(only) => onChange({ ...way, only: Object.keys(only).length > 0 ? only : null })}
      />
      {way.timer && <Timer timer={way.timer} event={way.event} around={around} onChange={(timer) => onChange({ ...way, timer })} />}
      <MaybeRules label="… and only when" rules={way.when} around={around} onChange={(when) => onChange({ ...way, when })} />
      {onRemove && (
        <Button look="quiet" fontSize="13px" fontWeight={400} onClick={onRemove}>
          Not lit by this
        </Button>
      )}
    </Box>
  );
}

type TimerOf = NonNullable<LitBy["timer"]>;

function Timer({ timer, event, around, onChange }: { timer: TimerOf; event: string; around: Around; onChange: (timer: TimerOf) => void }) {
  const days = timer.weekdays ?? [];
  return (
    <>
      {event === "date-reached" && (
        <>
          <Field label="The date">
            {(ids) => (
              <Select {...ids} value={timer.field ?? ""} onChange={(e) => onChange({ ...timer, field: e.target.value })}>
                {around.fields.map((f) => (
                  <option key={f.key} value={f.key}>
                    {f.label.toLowerCase()}
                  </option>
                ))}
              </Select>
            )}
          </Field>
          <Field label="Days after it (before it, with a minus)">
            {(ids) => (
              <Input
                {...ids}
                type="number"
                value={timer.days}
                onChange={(e) => onChange({ ...timer, days: Math.round(Number(e.target.value)) })}
              />
            )}
          </Field>
        </>
      )}
      {event === "hour" && (
        <Box role="group" aria-label="Days of the week; none means every day" display="flex" flexWrap="wrap" columnGap="3" mb="2">
          {weekdays.map((name, i) => (
            <Check
              key={name}
              on={days.includes(i + 1)}
              label={name}
              onChange={(on) => onChange({ ...timer, weekdays: on ? [...days, i + 1].sort() : days.filter((d) => d !== i + 1) })}
            />
          ))}
        </Box>
      )}
      <Field label={`At (in ${around.zone})`}>
        {(ids) => <Input {...ids} type="time" value={timer.at} onChange={(e) => onChange({ ...timer, at: e.target.value })} />}
      </Field>
    </>
  );
}

function Stops({
  around,
  definition,
  onChange,
}: {
  around: Around;
  definition: Definition;
  onChange: (stops: Schemas["StopRule"][]) => void;
}) {
  const stops = definition.stopOn ?? [];
  return (
    <Box role="group" aria-label="It stops when" mb="4">
      <Box fontSize="13px" color="ink2" mb="1">
        It stops when
      </Box>
      {around.events
        .filter((e) => e.stops)
        .map((e) => {
          const rule = stops.find((s) => s.event === e.key);
          return (
            <Box key={e.key}>
              <Check
                on={Boolean(rule)}
                label={e.sentence}
                onChange={(on) => onChange(on ? [...stops, { event: e.key }] : stops.filter((s) => s.event !== e.key))}
              />
              {rule && e.details.length > 0 && !["submission", "submission-edited", "replied"].includes(e.key) && (
                <Box pl="6">
                  <EventDetails
                    event={e.key}
                    only={(rule.only ?? {}) as Only}
                    around={around}
                    definition={definition}
                    onChange={(only) =>
                      onChange(
                        stops.map((s) => (s.event === e.key ? { event: e.key, only: Object.keys(only).length > 0 ? only : null } : s)),
                      )
                    }
                  />
                </Box>
              )}
            </Box>
          );
        })}
      <Box fontSize="13px" color="ink2">
        What waits for the lead and the team is cancelled. Systems, and bands entered by that very event, go on.
      </Box>
    </Box>
  );
}
