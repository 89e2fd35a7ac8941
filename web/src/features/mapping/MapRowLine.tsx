import { Box, chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { Input, Select } from "@/ui/Field";
import { type Draft, type DraftRow, joined, parted, sureness, withoutRow, withRow } from "./draft";
import { MakeField } from "./MakeField";
import { MatchChoices } from "./MatchChoices";

const leftOut = "\u0000";

type Props = {
  draft: Draft;
  at: number;
  row: DraftRow;
  field: Schemas["MapField"] | undefined;
  whole: Schemas["MapDetail"];
  given: string | undefined;
  gives: Schemas["TriedRow"] | undefined;
  may: boolean;
  client: string;
  onChange: (draft: Draft) => void;
};

/** One field of the form: what it asks, what the sample says, where it goes, and the value that this gives. */
export function MapRowLine({ draft, at, row, field, whole, given, gives, may, client, onChange }: Props) {
  const [making, setMaking] = useState(false);
  const label = row.constant !== null ? "A fixed value" : (field?.label ?? row.field);
  const known = whole.leadFields.find((f) => f.key === row.to);
  const own = row.to === row.field && !known;
  const suggested = field?.suggested;
  const asSuggested = suggested?.leadField !== null && suggested?.leadField === row.to;
  const others = draft.rows.filter((r) => r.field !== "" && r.field !== row.field && r.with.length === 0);
  return (
    <Box
      role="listitem"
      data-row={row.field || row.to}
      display="grid"
      gridTemplateColumns={{ base: "1fr", md: "minmax(0, 0.85fr) 22px minmax(190px, 1.3fr) minmax(0, 0.95fr)" }}
      columnGap="3"
      borderBottomWidth="1px"
      borderColor="line2"
      py="7px"
      alignItems="start"
      opacity={row.to === null ? 0.75 : 1}
    >
      <Box minW="0" pt="4px">
        <Box fontWeight={600} overflowWrap="anywhere" lineHeight="18px">
          {label}
          {field?.fresh && (
            <Box as="span" color="cinder" fontFamily="mono" fontSize="12px" fontWeight={400}>
              {" new"}
            </Box>
          )}
        </Box>
        {row.constant !== null ? (
          <Input
            aria-label={`The fixed value of ${known?.label ?? row.to}`}
            minH="30px"
            mt="1"
            value={row.constant}
            onChange={(e) => onChange(withRow(draft, at, { constant: e.target.value }))}
          />
        ) : (
          <Box fontSize="12px" color="ink2" lineHeight="16px" overflowWrap="anywhere">
            {field && field.label !== row.field && (
              <Box as="span" fontFamily="mono">
                {row.field}{" "}
              </Box>
            )}
            {given ? `“${given}”` : "not answered in this one"}
          </Box>
        )}
        {row.with.map((w) => (
          <Box key={w} fontSize="13px" display="flex" gap="2" alignItems="center" mt="1" flexWrap="wrap">
            and <b>{whole.fields.find((f) => f.name === w)?.label ?? w}</b>, joined with
            <Input
              aria-label={`What stands between ${label} and ${w}`}
              width="52px"
              minH="26px"
              py="0"
              value={row.joiner}
              onChange={(e) => onChange(withRow(draft, at, { joiner: e.target.value.slice(0, 10) }))}
            />
            {may && (
              <Button look="quiet" fontSize="13px" onClick={() => onChange(parted(draft, at, w))}>
                part again
              </Button>
            )}
          </Box>
        ))}
      </Box>
      <Box aria-hidden display={{ base: "none", md: "block" }} pt="3px" color={row.to === null ? "line" : "ink"}>
        <svg width="22" height="22" role="presentation">
          <line
            x1="0"
            y1="11"
            x2={row.to === null ? 8 : 16}
            y2="11"
            stroke="currentColor"
            strokeWidth="2"
            strokeDasharray={own ? "3 3" : undefined}
          />
          <path
            d={row.to === null ? "M8 6v10" : "M12 11l5 -5l5 5l-5 5z"}
            fill={known ? "var(--chakra-colors-sulphur)" : "none"}
            stroke="currentColor"
          />
        </svg>
      </Box>
      <Box minW="0">
        {may ? (
          <Select
            aria-label={`${label} goes to`}
            minH="30px"
            py="0"
            fontSize="14px"
            fontWeight={known ? 600 : 400}
            value={row.to === null ? leftOut : (row.to as string)}
            onChange={(e) => onChange(withRow(draft, at, { to: e.target.value === leftOut ? null : e.target.value, choices: {} }))}
          >
            {row.field !== "" && !whole.leadFields.some((f) => f.key === row.field) && (
              <option value={row.field}>kept as “{row.field}”</option>
            )}
            {row.field !== "" && <option value={leftOut}>left out</option>}
            {!known && !own && row.to !== null && <option value={row.to}>{row.to.replaceAll("_", " ")}</option>}
            <optgroup label="Everybody's fields">
              {whole.leadFields
                .filter((f) => !f.own)
                .map((f) => (
                  <option key={f.key} value={f.key}>
                    {f.label}
                  </option>
                ))}
            </optgroup>
            <optgroup label="Your own fields">
              {whole.leadFields
                .filter((f) => f.own && f.key !== row.field)
                .map((f) => (
                  <option key={f.key} value={f.key}>
                    {f.label}
                  </option>
                ))}
            </optgroup>
          </Select>
        ) : (
          <Box pt="4px">{row.to === null ? "left out" : (known?.label ?? `kept as “${row.to}”`)}</Box>
        )}
        <Box display="flex" columnGap="3" flexWrap="wrap" alignItems="baseline" fontSize="12px" color="ink2" lineHeight="18px" mt="2px">
          <span>
            {asSuggested && !whole.confirmed
              ? `${sureness(suggested?.confidence ?? 0)}: ${suggested?.because}`
              : field?.fresh
                ? "came after the map was confirmed"
                : own && !whole.confirmed
                  ? (suggested?.because ?? "")
                  : ""}
          </span>
          {may && own && !making && (
            <Button look="quiet" fontSize="13px" minH="20px" onClick={() => setMaking(true)}>
              Make a field of it
            </Button>
          )}
          {may && row.constant !== null && (
            <Button look="quiet" fontSize="13px" minH="20px" onClick={() => onChange(withoutRow(draft, at))}>
              Take out
            </Button>
          )}
          {may && row.field !== "" && row.to !== null && !own && others.length > 0 && (
            <chakra.select
              aria-label={`Join another field to ${label}`}
              fontSize="12px"
              color="ink2"
              bg="transparent"
              cursor="pointer"
              width="92px"
              minH="20px"
              value=""
              onChange={(e) => e.target.value && onChange(joined(draft, at, e.target.value))}
            >
              <option value="">join with…</option>
              {others.map((o) => (
                <option key={o.field} value={o.field}>
                  {whole.fields.find((f) => f.name === o.field)?.label ?? o.field}
                </option>
              ))}
            </chakra.select>
          )}
        </Box>
        {making && (
          <MakeField
            client={client}
            label={label}
            choices={field?.choices ?? []}
            onMade={(key) => {
              setMaking(false);
              onChange(withRow(draft, at, { to: key }));
            }}
            onClose={() => setMaking(false)}
          />
        )}
        {known && known.choices.length > 0 && (
          <MatchChoices
            row={row}
            answers={answersOf(whole, row.field, field)}
            choices={known.choices}
            may={may}
            onChange={(choices) => onChange(withRow(draft, at, { choices }))}
          />
        )}
      </Box>
      <Box minW="0" pt="4px" overflowWrap="anywhere" data-value>
        {gives?.value ? (
          <Box as="span" fontFamily={isCode(row.to) ? "mono" : "body"} fontSize="14px">
            {gives.value}
          </Box>
        ) : (
          <Box as="span" color="ink2" fontSize="13px">
            {row.to === null ? "left out" : "nothing"}
          </Box>
        )}
        {gives?.fault && (
          <Box color="cinder" fontSize="12px" lineHeight="16px">
            {gives.fault}
          </Box>
        )}
      </Box>
    </Box>
  );
}

const isCode = (to: string | null) => to === "phone" || to === "email" || to === "postcode";

// What the form offers, and what was answered though it does not.
function answersOf(whole: Schemas["MapDetail"], name: string, field: Schemas["MapField"] | undefined): string[] {
  const said = whole.samples.flatMap((s) => s.answers.filter((a) => a.field === name && a.value).map((a) => a.value));
  return [...new Set([...(field?.choices ?? []), ...said])].slice(0, 40);
}
