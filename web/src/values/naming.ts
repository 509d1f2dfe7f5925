/** A step's name as formulas write it: what the core's `slug` makes of it. No React. */
export function formulaNameOf(name: string): string {
  const text = name
    .toLowerCase()
    .replace(/[^\p{L}\p{N}_]+/gu, "_")
    .replace(/^_+|_+$/g, "");
  return /^(\p{N}|$)/u.test(text) ? `_${text}` : text;
}
