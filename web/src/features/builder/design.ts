import type { Schemas } from "@/api/client";

export type Design = Schemas["FormDesign"];
export type DesignField = Schemas["DesignField"];

/** What can be added, as people say it. */
export const addable: { label: string; field: Omit<DesignField, "name"> }[] = [
  { label: "Email", field: { label: "Email", type: "email", required: true, choices: [], means: "email", hidden: null } },
  {
    label: "Telephone number",
    field: { label: "Mobile number", type: "phone", required: false, choices: [], means: "phone", hidden: null },
  },
  { label: "Full name", field: { label: "Your name", type: "text", required: true, choices: [], means: "full_name", hidden: null } },
  { label: "First name", field: { label: "First name", type: "text", required: true, choices: [], means: "first_name", hidden: null } },
  { label: "Last name", field: { label: "Last name", type: "text", required: true, choices: [], means: "last_name", hidden: null } },
  { label: "Business", field: { label: "Business", type: "text", required: false, choices: [], means: "company", hidden: null } },
  {
    label: "Message",
    field: { label: "What is it about?", type: "long-text", required: false, choices: [], means: "message", hidden: null },
  },
  { label: "A question of your own: text", field: { label: "", type: "text", required: false, choices: [], means: null, hidden: null } },
  { label: "… one of some choices", field: { label: "", type: "choice", required: false, choices: [], means: null, hidden: null } },
  { label: "… several of some choices", field: { label: "", type: "choices", required: false, choices: [], means: null, hidden: null } },
  { label: "… long text", field: { label: "", type: "long-text", required: false, choices: [], means: null, hidden: null } },
  { label: "… a number", field: { label: "", type: "number", required: false, choices: [], means: null, hidden: null } },
  { label: "… a date", field: { label: "", type: "date", required: false, choices: [], means: null, hidden: null } },
  { label: "… yes or no", field: { label: "", type: "yes-no", required: false, choices: [], means: null, hidden: null } },
  {
    label: "Something hidden",
    field: { label: "Hidden", type: "hidden", required: false, choices: [], means: null, hidden: { fixed: null, tracked: "utm_source" } },
  },
];

/** A name for a field, from what it asks; never one that is taken. */
export function nameFor(label: string, means: string | null, taken: readonly string[]): string {
  const base =
    means ??
    (label
      .toLowerCase()
      .normalize("NFD")
      .replace(/[^a-z0-9]+/g, "_")
      .replace(/^[^a-z]+|_+$/g, "")
      .slice(0, 40) ||
      "question");
  if (!taken.includes(base)) return base;
  let n = 2;
  while (taken.includes(`${base}_${n}`)) n++;
  return `${base}_${n}`;
}

/** The design with one field changed. */
export const withField = (design: Design, at: number, change: Partial<DesignField>): Design => ({
  ...design,
  fields: design.fields.map((f, i) => (i === at ? { ...f, ...change } : f)),
});

/** The design with a field moved by one place. */
export function moved(design: Design, at: number, by: -1 | 1): Design {
  const to = at + by;
  if (to < 0 || to >= design.fields.length) return design;
  const fields = [...design.fields];
  const [field] = fields.splice(at, 1);
  fields.splice(to, 0, field as DesignField);
  return { ...design, fields };
}

/** A question of one's own takes its name from its words until they have been published under it. */
export function renamed(design: Design, at: number, label: string): Design {
  const field = design.fields[at] as DesignField;
  const others = design.fields.filter((_, i) => i !== at).map((f) => f.name);
  const fresh = field.means === null && (field.name.startsWith("question") || field.name === nameFor(field.label, null, others));
  return withField(design, at, { label, ...(fresh ? { name: nameFor(label, null, others) } : {}) });
}

/** The faults of a place and of all below it. */
export const faultsAt = (faults: readonly Schemas["DesignFault"][], place: string) =>
  faults.filter((f) => f.place === place || f.place.startsWith(`${place}.`));
