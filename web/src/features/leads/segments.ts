// 3GPP TS 23.038 § 6.2.1: the default alphabet, and the characters that take two septets.
const basic = new Set(
  "@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !\"#¤%&'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà",
);
const extended = new Set("\f^{}\\[~]|€");

/** How a text will be cut for the air: as the core counts it, for showing while one types. */
export function segmentsOf(text: string): { units: number; segments: number; unicode: boolean } {
  let septets = 0;
  for (const c of text) {
    if (basic.has(c)) septets += 1;
    else if (extended.has(c)) septets += 2;
    else return cut(text.length, 70, 67, true);
  }
  return cut(septets, 160, 153, false);
}

const cut = (units: number, whole: number, part: number, unicode: boolean) => ({
  units,
  segments: units <= whole ? 1 : Math.ceil(units / part),
  unicode,
});
