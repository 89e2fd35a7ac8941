/**
 * Orders things by how well a few typed letters fit: the words begin with them, hold them, or have them in order.
 * Things that do not fit are left out; without letters all stay, in their order.
 */
export function rank<T>(things: readonly T[], typed: string, textOf: (thing: T) => string): T[] {
  const sought = typed.toLowerCase();
  if (!sought) return [...things];
  return things
    .map((thing, order) => ({ thing, order, score: scoreOf(textOf(thing).toLowerCase(), sought) }))
    .filter((r) => r.score > 0)
    .sort((a, b) => b.score - a.score || a.order - b.order)
    .map((r) => r.thing);
}

function scoreOf(text: string, sought: string): number {
  if (text.startsWith(sought)) return 4;
  if (text.split(/[\s·:,]+/).some((word) => word.startsWith(sought))) return 3;
  if (text.includes(sought)) return 2;
  let from = 0;
  for (const letter of sought) {
    from = text.indexOf(letter, from) + 1;
    if (from === 0) return 0;
  }
  return sought.length > 2 ? 1 : 0;
}
