/** What a variant can set: named values, and sizes of steps. No React. */
import type { Recipe, Setting, Value, Variant } from "../api/client";
import { isShown, type Kind } from "../api/kinds";

export interface Settable {
  of: string;
  place: string;
  label: string;
  /** What stands in the job now; empty where the step chooses for itself. */
  text: string;
}

/** The same word as the server gives a setting's place. */
export const placeOf = ({ of, place }: { of: string; place?: string }) => (place ? `${of}/${place}` : of);

/** Everything that a variant can set, in the job's order. */
export function settable(recipe: Recipe, kinds: Record<string, Kind>): Settable[] {
  const values = (recipe.values ?? []).map((v) => ({ of: v.id, place: "", label: v.name, text: v.value.text }));
  const sizes = recipe.steps.flatMap((step) => {
    const kind = kinds[step.kind];
    const params: Record<string, unknown> = step.params;
    return (kind?.fields ?? [])
      .filter((f) => f.type === "value" && isShown(f, kind!, params))
      .map((f) => {
        const now = (params[f.name] ?? f.fallback) as Value | null | undefined;
        return { of: step.id, place: f.name, label: `${step.name}, ${f.label.toLowerCase()}`, text: now?.text ?? "" };
      });
  });
  return [...values, ...sizes];
}

/** Rows of the table: what any variant sets, also where the job has lost it, and what was just added. */
export function rowsOf(variants: readonly Variant[], all: readonly Settable[], added: readonly string[]): Settable[] {
  const set = variants.flatMap((v) => v.settings ?? []);
  const wanted = new Set([...set.map(placeOf), ...added]);
  const known = all.filter((s) => wanted.has(placeOf(s)));
  const lost = [...new Set(set.map(placeOf))].filter((p) => !all.some((s) => placeOf(s) === p));
  return [
    ...known,
    ...lost.map((p) => {
      const [of = "", place = ""] = p.split("/");
      return { of, place, label: "gone from the job", text: "" };
    }),
  ];
}

/** The variant's settings with one of them said otherwise; an empty text takes it out. */
export function withSetting(settings: readonly Setting[], at: Settable, text: string): Setting[] {
  const rest = settings.filter((s) => placeOf(s) !== placeOf(at));
  const said: Setting = { of: at.of, place: at.place, value: { text: text.trim(), mark: "assumed", note: "" } };
  if (!text.trim()) return rest;
  const was = settings.findIndex((s) => placeOf(s) === placeOf(at));
  return was < 0 ? [...rest, said] : settings.map((s, k) => (k === was ? said : s));
}
