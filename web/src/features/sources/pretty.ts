/** A body as people read it: JSON set out, a form post with one field a line. What is neither stays as it is. */
export function pretty(contentType: string, raw: string): string {
  const text = raw.trim();
  if (text.startsWith("{") || text.startsWith("[")) {
    try {
      return JSON.stringify(JSON.parse(text), null, 2);
    } catch {
      return raw;
    }
  }
  if (contentType.startsWith("application/x-www-form-urlencoded")) {
    return [...new URLSearchParams(text)].map(([name, value]) => `${name} = ${value}`).join("\n");
  }
  return raw;
}
