/** What a step that is being prepared still needs before it can be tried. No React. */
import type { Kind } from "../api/kinds";

/** The first part that has to be picked or chosen, as a person is told to; none where all are there. */
export function nextToPick(kind: Kind | undefined, params: Record<string, unknown>): string | null {
  for (const field of kind?.fields ?? []) {
    if (!field.needed) continue;
    const value = params[field.name];
    const label = field.label.toLowerCase();
    if (field.type === "face" && !value) return `pick '${label}' in the view`;
    if (field.type === "refs" && !field.ids && !(value as unknown[] | undefined)?.length)
      return `pick '${label}' in the view`;
    if (field.type === "ref" && !value) return `choose '${label}'`;
  }
  return null;
}
