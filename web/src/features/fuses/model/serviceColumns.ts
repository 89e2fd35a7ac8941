import type { Schemas } from "@/api/client";
import type { Around } from "./sheetLayout";

type Item = Schemas["ListItem"];

/** A column as it is shown: also one that is filled but is not there any more. */
export type ShownColumn = Item & { gone: boolean };

const plain = (text: string) =>
  text
    .normalize("NFD")
    .replace(/\p{M}/gu, "")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, " ")
    .trim();

/** Which columns stand open: demanded ones, filled ones, and those that a search finds; and how many others there are. */
export function columnsShown(setting: string, settings: Readonly<Record<string, string>>, items: readonly Item[], search: string) {
  const filled = (key: string) => (settings[`${setting}.${key}`] ?? "") !== "";
  const wanted = plain(search);
  const found = (i: Item) => wanted !== "" && (plain(i.name).includes(wanted) || plain(i.key).includes(wanted));
  const open = items.filter((i) => i.required || filled(i.key) || found(i));
  const gone = Object.keys(settings)
    .filter((k) => k.startsWith(`${setting}.`) && settings[k] && !items.some((i) => `${setting}.${i.key}` === k))
    .map((k) => ({
      key: k.slice(setting.length + 1),
      name: k.slice(setting.length + 1),
      required: false,
      about: null,
      gone: items.length > 0,
    }));
  const shown: ShownColumn[] = [...open.map((i) => ({ ...i, gone: false })), ...gone];
  return { shown, more: items.length - open.length };
}

/** The lead field that most likely belongs into a column: the same name or key. */
function suggestFor(column: Item, fields: Around["fields"]) {
  const names = [plain(column.name), plain(column.key)];
  return fields.find((f) => names.includes(plain(f.label)) || names.includes(plain(f.key))) ?? null;
}

/** The words that put a lead field there as it is. */
export const wordsOf = (field: string) => `{{ lead.${field} }}`;

/** The lead field that words consist of, or nothing where they say more. */
export const fieldAlone = (words: string, fields: Around["fields"]) => fields.find((f) => words.trim() === wordsOf(f.key)) ?? null;

/** Columns still empty into which a lead field fits, with the words for it. */
export const fits = (setting: string, settings: Readonly<Record<string, string>>, items: readonly Item[], fields: Around["fields"]) =>
  items
    .filter((i) => !settings[`${setting}.${i.key}`])
    .map((i) => ({ key: `${setting}.${i.key}`, field: suggestFor(i, fields) }))
    .flatMap(({ key, field }) => (field ? [{ key, words: wordsOf(field.key) }] : []));

/** Settings without those that were chosen from a list that this one decides. */
export function emptied(settings: Record<string, string>, around: Around, kind: string, changed: string): Record<string, string> {
  const hang = around.kinds.find((k) => k.key === kind)?.settings.filter((s) => s.listNeeds?.includes(changed)) ?? [];
  return Object.fromEntries(Object.entries(settings).filter(([key]) => !hang.some((h) => h.type === "listed" && h.key === key)));
}
