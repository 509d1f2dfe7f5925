/** A step's values as the list and the sheet show them. No React. */
import type { BodyState, StepFacts, StepState, ValueState } from "../api/build";
import type { FaceFacts, Step, Value } from "../api/client";
import { factsOf } from "../api/facts";
import { isShown, type Kind } from "../api/kinds";
import { surfaceName } from "../ui/surfaces";
import { area, length, type Unit, volume, workedOut } from "../units";

export interface Typed {
  text: string;
  mark?: string;
  note?: string;
}

/** As the recipe keeps it. */
export const asValue = (v: Typed): Value => ({
  text: v.text,
  mark: (v.mark ?? "assumed") as Value["mark"],
  note: v.note ?? "",
});

export interface ShownValue {
  text: string;
  mark: string;
  /** What a formula comes to, or what the step used when nothing was typed. */
  means: string;
  note: string;
}

export function quantity(q: ValueState, unit: Unit): string {
  if (q.length === 1 && q.angle === 0) return workedOut(q.value, unit);
  if (q.angle === 1 && q.length === 0) return `${q.value.toFixed(2)} deg`;
  if (q.length === 2) return area(q.value, unit);
  if (q.length === 3) return volume(q.value, unit);
  return String(Number(q.value.toFixed(6)));
}

/** Letters other than units: then it is worth saying what the text comes to. */
const isFormula = (text: string) => /[*/+(]|[a-z_]{3,}/i.test(text.replace(/\b(mm|cm|m|inch|in|deg|rad)\b/g, ""));

export function shownValue(typed: Typed | null | undefined, name: string, state: StepState | undefined, unit: Unit) {
  const found = state?.values?.[name];
  const used = state?.facts ? (state.facts as Record<string, unknown>)[name] : undefined;
  const shown: ShownValue = {
    text: typed?.text ?? "",
    // Nothing typed: the step took its own from the scan, or does without.
    mark: typed ? (found?.mark ?? typed.mark ?? "assumed") : typeof used === "number" ? "scan" : "assumed",
    means: "",
    note: typed?.note ?? "",
  };
  if (!typed && typeof used === "number") shown.means = workedOut(used, unit);
  if (typed && found && isFormula(typed.text)) shown.means = quantity(found, unit);
  return shown;
}

export function keyValue(step: Step, kind: Kind | undefined, state: StepState | undefined, unit: Unit) {
  const field = kind?.fields.find((f) => f.main);
  if (!kind || field?.type !== "value" || !isShown(field, kind, step.params)) return undefined;
  const own = (step.params as Record<string, Typed | null | undefined>)[field.name];
  const typed = own ?? (field.fallback as Typed | null);
  return { field, typed, ...shownValue(typed, field.name, state, unit) };
}

/** A region (or plane) as steps at the end of the list see it: as measured, or as what was agreed has settled it. */
export function settledFacts(steps: StepState[], id: string): StepFacts | null {
  const own = steps.find((s) => s.id === id)?.facts ?? null;
  const settled = steps
    .map((s) => (s.status === "ok" ? factsOf(s.facts, "intent")?.regions[id] : undefined))
    .findLast((f) => f !== undefined);
  return own?.of === "region" && settled ? { ...own, ...settled, of: "region" } : own;
}

export function bodyLine(body: BodyState, unit: Unit): string {
  return `${volume(body.volume, unit)} · ${body.faces.length} faces`;
}

/** A reference to a face as the recipe keeps it. */
export function faceRef(body: string, face: FaceFacts) {
  return { body, name: face.name, kind: face.kind, beside: face.beside, place: face.centre };
}

/** Inside a sentence. */
export const inSentence = (text: string) => text.replace(/^./, (c) => c.toLowerCase());

/** A face in plain words. */
export function faceTitle(face: FaceFacts, unit: Unit): string {
  if (face.kind === "plane") return `Flat face, ${area(face.area, unit)}`;
  if (face.kind === "cylinder")
    return `${surfaceName("cylinder", face.inside === true)} face, Ø ${length(face.diameter ?? 0, unit)}`;
  return `${face.kind.replace(/^./, (c) => c.toUpperCase())} face, ${area(face.area, unit)}`;
}

/** Parameters with what stands at a place such as ``pairs[2].face`` replaced. */
export function withPlace(params: Record<string, unknown>, place: string, value: unknown): Record<string, unknown> {
  const parts = place.split(/[.[\]]+/).filter(Boolean);
  const copy = structuredClone(params);
  let node: unknown = copy;
  for (const p of parts.slice(0, -1)) node = (node as Record<string, unknown>)[p];
  (node as Record<string, unknown>)[parts.at(-1)!] = value;
  return { [parts[0]!]: copy[parts[0]!] };
}
