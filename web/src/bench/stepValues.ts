/** A step's values as the list and the sheet show them. No React. */
import type { BodyState, StepState, ValueState } from "../api/build";
import type { FaceFacts, Step } from "../api/client";
import { isShown, type Kind } from "../api/kinds";
import { figuresOf } from "../construct/places";
import { area, count, length, type Unit, volume } from "../units";

export interface Typed {
  text: string;
  mark?: string;
  note?: string;
}

export interface ShownValue {
  text: string;
  mark: string;
  /** What a formula comes to, or what the step used when nothing was typed. */
  means: string;
  note: string;
}

export function quantity(q: ValueState, unit: Unit): string {
  if (q.length === 1 && q.angle === 0) return length(q.value, unit, 1);
  if (q.angle === 1 && q.length === 0) return `${q.value.toFixed(2)} deg`;
  if (q.length === 2) return area(q.value, unit);
  if (q.length === 3) return volume(q.value, unit);
  return String(Number(q.value.toFixed(6)));
}

/** Letters other than units: then it is worth saying what the text comes to. */
const isFormula = (text: string) => /[*/+(]|[a-z_]{3,}/i.test(text.replace(/\b(mm|cm|m|inch|in|deg|rad)\b/g, ""));

export function shownValue(typed: Typed | null | undefined, name: string, state: StepState | undefined, unit: Unit) {
  const found = state?.values?.[name];
  const used = state?.facts[name];
  const shown: ShownValue = {
    text: typed?.text ?? "",
    // Nothing typed: the step took its own from the scan, or does without.
    mark: typed ? (found?.mark ?? typed.mark ?? "assumed") : typeof used === "number" ? "scan" : "assumed",
    means: "",
    note: typed?.note ?? "",
  };
  if (!typed && typeof used === "number") shown.means = length(used, unit, 1);
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

/** A fitted surface in the words of the bench. */
// biome-ignore lint/suspicious/noExplicitAny: facts are what the step says they are
function surfaceSaid(f: any, unit: Unit): string {
  const inside = Boolean(f.inside);
  if (f.kind === "cylinder") return `${inside ? "bore" : "cylinder"} Ø ${length(f.diameter, unit)}`;
  if (f.kind === "cone") return `${inside ? "taper bore" : "taper"} ${Number(f.half_angle).toFixed(2)}° to its axis`;
  if (f.kind === "sphere") return `${inside ? "ball seat" : "ball"} R ${length(f.radius, unit)}`;
  if (f.kind === "torus") return `${inside ? "groove" : "bead"} R ${length(f.minor, unit)}`;
  return "plane";
}

/** What a step measured, as rows of words and figures. */
export function factRows(state: StepState | undefined, unit: Unit): [string, string][] {
  if (state?.status !== "ok") return [];
  const f = state.facts;
  if (state.kind === "region")
    return [
      ["Surface", surfaceSaid(f, unit)],
      ["Facets", count(f.facets)],
      ["Area", area(f.area, unit)],
      ["Rms", length(f.rms, unit, 1)],
      ["Largest", length(Math.abs(f.largest), unit, 1)],
      ...(f.u ? ([["Uncertainty", `± ${length(f.u, unit, 2)}`]] as [string, string][]) : []),
      ...(f.left_out ? ([["Left out as worn", `${count(f.left_out)} facets`]] as [string, string][]) : []),
    ];
  if (f.agreed !== undefined)
    return [
      ["Agreed", String(f.agreed)],
      ["Dearest", `${Number(f.dearest).toFixed(1)} u`],
      ["Largest shift", length(f.largest_shift, unit, 1)],
    ];
  if (f.measured !== undefined)
    return figuresOf(f, unit).map(([name, figure, u]) => [
      name.replace(/^./, (c) => c.toUpperCase()),
      `${figure}${u ? ` ${u}` : ""}`,
    ]);
  if (f.shape !== undefined)
    return [
      ["At", (f.origin as number[]).map((x) => length(x, unit)).join(", ")],
      ...(f.direction
        ? ([["Direction", (f.direction as number[]).map((x) => x.toFixed(4)).join(", ")]] as [string, string][])
        : []),
      ...(f.u ? ([["Position", `± ${length(2 * f.u, unit, 2)}`]] as [string, string][]) : []),
      ...(f.u_tilt ? ([["Tilt", `± ${(2 * f.u_tilt).toFixed(3)}°`]] as [string, string][]) : []),
      ...(f.agree === undefined
        ? []
        : ([["Scan that agrees", `${(100 * f.agree).toFixed(0)} % closely, ${(100 * f.near).toFixed(0)} % nearby`]] as [
            string,
            string,
          ][])),
      ...(f.miss ? ([["Miss each other by", length(f.miss, unit, 1)]] as [string, string][]) : []),
    ];
  if (f.lines !== undefined)
    return [
      [
        "Pieces",
        [
          f.lines && `${f.lines} lines`,
          f.arcs && `${f.arcs} arcs`,
          f.ellipses && `${f.ellipses} ${f.ellipses === 1 ? "ellipse" : "ellipses"}`,
          f.free && `${f.free} free`,
        ]
          .filter(Boolean)
          .join(", "),
      ],
      ["Profiles", f.profiles ? String(f.profiles) : "none closed"],
      ...(f.area ? ([["Profile area", area(f.area, unit)]] as [string, string][]) : []),
      ...(f.rms === undefined ? [] : ([["Largest rms", length(f.rms, unit, 1)]] as [string, string][])),
    ];
  if (f.volume === undefined) return [];
  return [
    ["Body volume", volume(f.volume, unit)],
    ["Faces", String(f.faces)],
    ...(f.solids > 1 ? ([["Pieces", String(f.solids)]] as [string, string][]) : []),
  ];
}

/** A region (or plane) as steps at the end of the list see it: as measured, or as what was agreed has settled it. */
export function regionFacts(steps: StepState[], id: string) {
  const settled = steps.findLast((s) => s.status === "ok" && s.facts.regions?.[id])?.facts.regions[id];
  const own = steps.find((s) => s.id === id)?.facts;
  return own && { ...own, ...settled };
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
  if (face.kind === "cylinder") return `${face.inside ? "Bore" : "Round"} face, Ø ${length(face.diameter ?? 0, unit)}`;
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
