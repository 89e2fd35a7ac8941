/** Names that people might have, one for each number: what looks like a hand on the keys would be held for approval. */
export const syllables = (n) => (n < 50 ? "" : syllables(Math.floor(n / 50))) + "bdfklmnrst"[Math.floor((n % 50) / 5)] + "aeiou"[n % 5];
