/** Where fields of a form stand, and which of them a form holds. No React. */
import type { Field } from "../api/kinds";

/** Where a field stands: in the step's parameters, or in a row of them. */
export interface At {
  params: Record<string, unknown>;
  before: string;
  change: (part: Record<string, unknown>) => void;
  type: ((part: Record<string, unknown>) => void) | undefined;
}

/** What formulas and the build's values call the value at a place: ``more[0].radius`` is ``more_0_radius``. */
export const formulaName = (place: string) =>
  place
    .split(/[.[\]]+/)
    .filter(Boolean)
    .join("_");

/** Fields that a row can hold without a part of its own. */
export const isSimple = (f: Field) =>
  f.type === "value" || f.type === "switch" || ((f.type === "refs" || f.type === "ref") && !f.ids);

/** The scan is the one on the bench; a spot is picked beside the place it stands in for. */
export const isHidden = (f: Field) =>
  (f.type === "ref" && f.reference === "scan") || (f.type === "spot" && f.name.endsWith("_spot"));

export const textOf = (value: unknown): string => (value as { text?: string } | null)?.text ?? String(value);
