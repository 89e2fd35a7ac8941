/** Columns a list of leads can have, beside the lead fields of a client. The name always stands first. */
export const builtIn: readonly [string, string][] = [
  ["what", "what they asked"],
  ["through", "through"],
  ["asked", "asked"],
  ["speed", "speed to lead"],
  ["who", "who has it"],
  ["owner", "owner"],
  ["tags", "tags"],
  ["email", "email"],
  ["phone", "phone"],
];

export const usualColumns = ["what", "through", "asked", "speed", "who"];

/** The columns that the address names, or the usual ones. */
export const columnsOf = (told: string | null): string[] => (told ? told.split(",").filter(Boolean) : usualColumns);

/** A column's heading. */
export const headingOf = (key: string): string => builtIn.find(([k]) => k === key)?.[1] ?? key.replaceAll("_", " ");

/** As the export calls them. */
export const exported = (columns: readonly string[]): string[] =>
  ["name", ...columns.flatMap((c) => (c === "through" ? ["form", "source"] : [c]))].filter((c, i, all) => all.indexOf(c) === i);
