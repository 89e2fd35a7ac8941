/** Cuts words into plain text and the fields and loops in it (Liquid's `{{ … }}` and `{% … %}`), for marking them. */
export function splitWords(words: string): { text: string; field: boolean }[] {
  return words
    .split(/(\{\{.*?\}\}|\{%.*?%\})/s)
    .filter((part) => part !== "")
    .map((text) => ({ text, field: /^\{[{%]/.test(text) && /[%}]\}$/.test(text) }));
}

/** How often, in words. */
export const times = (n: number) => (n === 0 ? "never" : n === 1 ? "once" : `${n.toLocaleString("en-GB")} times`);
