/** A step's values as the list and the sheet show them. No React. */
import type { BodyState, StepState } from "../api/build";
import type { Step } from "../api/client";
import { area, count, length, type Unit, volume } from "../units";

export interface ValueField {
  field: string;
  label: string;
  text: string;
  mark: string;
  /** What the step used when nothing was typed. */
  placeholder: string;
}

type Typed = { text: string; mark?: string } | null | undefined;

const LABELS: Record<string, Record<string, string>> = {
  region: { tolerance: "Tolerance" },
  outline: { offset: "Offset from the region", tolerance: "Tolerance of the outline" },
  extrude: { distance: "Distance" },
};
const KEY_VALUE: Record<string, string> = { region: "tolerance", outline: "offset", extrude: "distance" };

export function valueFields(step: Step, state: StepState | undefined, unit: Unit): ValueField[] {
  return Object.entries(LABELS[step.kind] ?? {}).map(([field, label]) => {
    const value = (step.params as Record<string, Typed>)[field];
    const used = state?.facts[field];
    return {
      field,
      label,
      text: value?.text ?? "",
      mark: value ? (value.mark ?? "assumed") : "scan",
      placeholder: typeof used === "number" ? length(used, unit, 1) : "",
    };
  });
}

export function keyField(step: Step, state: StepState | undefined, unit: Unit): ValueField | undefined {
  return valueFields(step, state, unit).find((f) => f.field === KEY_VALUE[step.kind]);
}

/** What a step measured, as rows of words and figures. */
export function factRows(state: StepState | undefined, unit: Unit): [string, string][] {
  if (state?.status !== "ok") return [];
  const f = state.facts;
  if (state.kind === "region")
    return [
      ["Surface", f.kind === "cylinder" ? `${f.inside ? "bore" : "cylinder"} Ø ${length(f.diameter, unit)}` : "plane"],
      ["Facets", count(f.facets)],
      ["Area", area(f.area, unit)],
      ["Rms", length(f.rms, unit, 1)],
      ["Largest", length(Math.abs(f.largest), unit, 1)],
    ];
  if (state.kind === "outline")
    return [
      [
        "Pieces",
        [f.lines && `${f.lines} lines`, f.arcs && `${f.arcs} arcs`, f.free && `${f.free} free`]
          .filter(Boolean)
          .join(", "),
      ],
      ["Profiles", String(f.profiles ?? 0)],
      ...(f.area ? ([["Area", area(f.area, unit)]] as [string, string][]) : []),
      ["Worst rms", length(f.rms, unit, 1)],
    ];
  return [
    ["Body volume", volume(f.volume, unit)],
    ["Faces", String(f.faces)],
    ...(f.solids > 1 ? ([["Pieces", String(f.solids)]] as [string, string][]) : []),
  ];
}

export function bodyLine(body: BodyState, unit: Unit): string {
  return `${volume(body.volume, unit)} · ${body.faces.length} faces`;
}

/** Steps that refer to a step, directly or through others: what goes with it. */
export function dependents(steps: readonly Step[], id: string): Step[] {
  const hit = new Set([id]);
  const out: Step[] = [];
  for (const step of steps) {
    const refs = Object.values(step.params as Record<string, unknown>).filter(
      (v): v is { id: string } => typeof v === "object" && v !== null && "id" in v,
    );
    if (step.id !== id && refs.some((r) => hit.has(r.id))) {
      hit.add(step.id);
      out.push(step);
    }
  }
  return out;
}
