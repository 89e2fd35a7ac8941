import type { Schemas } from "@/api/client";

/** A row of a map while it is being made. `to` is a lead field's key, `null` where the field is left out. */
export type DraftRow = {
  field: string;
  to: string | null;
  with: string[];
  joiner: string;
  constant: string | null;
  choices: Record<string, string>;
};

export type Draft = { rows: DraftRow[]; locale: string };

const plain = (field: string, to: string | null): DraftRow => ({ field, to, with: [], joiner: " ", constant: null, choices: {} });

/** What stands on the page at first: the confirmed map, and suggestions for what it does not know. */
export function firstDraft(whole: Schemas["MapDetail"]): Draft {
  const read = new Set((whole.map?.rows ?? []).flatMap((r) => [r.formField, ...(r.with ?? [])]));
  const kept = (whole.map?.rows ?? []).map(fromRow);
  const fresh = whole.fields
    .filter((f) => !read.has(f.name))
    .map((f) => plain(f.name, whole.map && !f.fresh ? f.name : (f.suggested.leadField ?? f.name)));
  const place = new Map(whole.fields.map((f, i) => [f.name, i]));
  const known = (r: DraftRow) => r.field === "" || place.has(r.field);
  // A tracking value that nobody has seen yet goes on being kept; it need not be looked at.
  const rows = [...kept, ...fresh];
  return {
    rows: [
      ...rows.filter(known).sort((a, b) => (place.get(a.field) ?? 999) - (place.get(b.field) ?? 999)),
      ...rows.filter((r) => !known(r)),
    ],
    locale: whole.map?.locale ?? "",
  };
}

/** A row as it is kept, for the page. */
export const fromRow = (row: Schemas["MapRow"]): DraftRow => ({
  field: row.formField,
  to: row.leadField ?? null,
  with: [...(row.with ?? [])],
  joiner: row.joiner ?? " ",
  constant: row.constant ?? null,
  choices: { ...(row.choices ?? {}) },
});

/** As the server takes it. */
export const toRows = (draft: Draft): Schemas["MapRow"][] =>
  draft.rows.map((r) => ({
    formField: r.field,
    leadField: r.to,
    with: r.with.length > 0 ? r.with : null,
    joiner: r.with.length > 0 && r.joiner !== " " ? r.joiner : null,
    constant: r.constant,
    choices: Object.keys(r.choices).length > 0 ? r.choices : null,
  }));

/** One row changed. */
export const withRow = (draft: Draft, at: number, change: Partial<DraftRow>): Draft => ({
  ...draft,
  rows: draft.rows.map((r, i) => (i === at ? { ...r, ...change } : r)),
});

/** Puts another field behind a row; its own row goes. */
export function joined(draft: Draft, at: number, field: string): Draft {
  const row = draft.rows[at];
  if (!row) return draft;
  const next = withRow(draft, at, { with: [...row.with, field] });
  return { ...next, rows: next.rows.filter((r) => r === next.rows[at] || r.field !== field || r.with.length > 0) };
}

/** Takes a joined field out again; it has a row of its own, kept under its own name. */
export function parted(draft: Draft, at: number, field: string): Draft {
  const row = draft.rows[at];
  if (!row) return draft;
  const next = withRow(draft, at, { with: row.with.filter((w) => w !== field) });
  return { ...next, rows: [...next.rows.slice(0, at + 1), plain(field, field), ...next.rows.slice(at + 1)] };
}

/** A fixed value for a lead field. */
export const withConstant = (draft: Draft, to: string, value: string): Draft => ({
  ...draft,
  rows: [...draft.rows, { ...plain("", to), constant: value }],
});

export const withoutRow = (draft: Draft, at: number): Draft => ({ ...draft, rows: draft.rows.filter((_, i) => i !== at) });

/** Another form's map, laid over this form's fields. */
export function copied(draft: Draft, map: Schemas["FieldMap"]): Draft {
  const taken = new Set(map.rows.flatMap((r) => [r.formField, ...(r.with ?? [])]));
  const order = draft.rows.map((r) => r.field);
  const rows = [...map.rows.map(fromRow), ...draft.rows.filter((r) => r.field !== "" && !taken.has(r.field))];
  const at = (r: DraftRow) => (order.includes(r.field) ? order.indexOf(r.field) : 999);
  return { rows: rows.sort((a, b) => at(a) - at(b)), locale: map.locale ?? draft.locale };
}

/** What keeps it from being confirmed, and what is odd about it. */
export function wrong(draft: Draft): { stops: string | null; odd: string[] } {
  const to = draft.rows.map((r) => r.to);
  const stops = to.includes("email") || to.includes("phone") ? null : "One field must go to email or phone: nobody could be recognised.";
  const odd: string[] = [];
  const single = to.filter((t): t is string => t !== null && t !== "email" && t !== "phone");
  for (const t of new Set(single)) {
    const fields = draft.rows.filter((r) => r.to === t && r.field !== t).map((r) => r.field || "the fixed value");
    if (fields.length > 1) odd.push(`${fields.join(" and ")} both go to ${t.replaceAll("_", " ")}: the first that was answered is taken.`);
  }
  if (to.includes("full_name") && (to.includes("first_name") || to.includes("last_name")))
    odd.push("A full name and its parts: the first that was answered is taken.");
  return { stops, odd };
}

/** Whether two maps say the same. */
export const same = (a: Draft, b: Draft) => JSON.stringify(toRows(a)) === JSON.stringify(toRows(b)) && a.locale === b.locale;

/** How sure a suggestion is, in a word. */
export const sureness = (confidence: number) => (confidence >= 0.95 ? "sure" : confidence >= 0.85 ? "likely" : "a guess");
