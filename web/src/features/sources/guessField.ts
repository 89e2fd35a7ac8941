const known: [RegExp, string][] = [
  [/e-?mail/i, "email"],
  [/phone|mobile|tel(?![a-z])/i, "phone"],
  [/first|given/i, "first_name"],
  [/last|family|surname/i, "last_name"],
  [/(full|^|\.)_?name$/i, "full_name"],
  [/company|business|organi[sz]ation/i, "company"],
];

/** A name for a picked value: what its path says it is, else its last step; never one that is taken. */
export function guessField(path: string, taken: readonly string[]): string {
  const last = path
    .replace(/\[\*\]/g, "")
    .replace(/\['(.*?)'\]/g, ".$1")
    .split(".")
    .at(-1) as string;
  const meant =
    known.find(([is]) => is.test(last))?.[1] ??
    last
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "_")
      .replace(/^_+|_+$/g, "");
  const base = meant || "value";
  if (!taken.includes(base)) return base;
  let n = 2;
  while (taken.includes(`${base}_${n}`)) n++;
  return `${base}_${n}`;
}
