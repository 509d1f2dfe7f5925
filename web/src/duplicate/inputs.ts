/** What steps that are duplicated take from others: the fields that are asked for. No React. */
import type { Step } from "../api/client";
import { isShown, type Kind } from "../api/kinds";
import { isHidden } from "../steps/formRow";

/** What a value refers to: the whole, and where it is a part, all that its names say. */
function pointed(value: unknown): { of: string; said: string }[] {
  if (Array.isArray(value)) return value.flatMap(pointed);
  if (value === null || typeof value !== "object") return [];
  const v = value as Record<string, unknown>;
  const of = v.id ?? v.body ?? v.sketch;
  if (typeof of === "string") return [{ of, said: typeof v.id === "string" ? "" : JSON.stringify(v) }];
  return Object.values(v).flatMap(pointed);
}

/** Fields of a step that refer to something besides the steps that are copied with it, and its main value. */
export function asked(step: Step, kind: Kind, copied: readonly string[]): string[] {
  const inner = copied.map((id) => `${id.slice(0, 8)}.`);
  const outside = (value: unknown) =>
    pointed(value).some(({ of, said }) => !copied.includes(of) && !inner.some((short) => said.includes(short)));
  return kind.fields
    .filter((f) => !isHidden(f) && isShown(f, kind, step.params))
    .filter((f) => (f.type === "value" ? f.name === kind.key_value : outside(step.params[f.name])))
    .map((f) => f.name);
}
