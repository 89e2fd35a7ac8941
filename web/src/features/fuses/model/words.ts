/** Cuts words into plain text and the fields and loops in it (Liquid's `{{ … }}` and `{% … %}`), for marking them. */
export function splitWords(words: string): { text: string; field: boolean }[] {
  return words
    .split(/(\{\{.*?\}\}|\{%.*?%\})/s)
    .filter((part) => part !== "")
    .map((text) => ({ text, field: /^\{[{%]/.test(text) && /[%}]\}$/.test(text) }));
}

/** How often, in words. */
export const litTimes = (n: number) => (n === 0 ? "not lit" : n === 1 ? "lit once" : `lit ${n.toLocaleString("en-GB")} times`);
