import { leadColumns, usualLeadColumns } from "@/api/words";

/** Columns a list of leads can have, beside the lead fields of a client, with their headings. The name always stands first. */
export const builtIn: readonly [string, string][] = leadColumns.filter((c) => c.shown).map((c) => [c.key, c.heading]);

/** The columns that the address names, or the usual ones. */
export const columnsOf = (told: string | null): readonly string[] => (told ? told.split(",").filter(Boolean) : usualLeadColumns);

/** A column's heading. */
export const headingOf = (key: string): string => leadColumns.find((c) => c.key === key)?.heading ?? key.replaceAll("_", " ");

/** As the export calls them. */
export const exported = (columns: readonly string[]): string[] => [
  ...new Set(["name", ...columns.flatMap((c) => leadColumns.find((l) => l.key === c)?.inFile ?? [c])]),
];
