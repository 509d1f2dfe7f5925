/** Regions and proposals in words: no React, no requests. */
import type { FoundRegion, Proposed } from "../api/client";
import { surfaceName, surfaceSize } from "../ui/surfaces";
import { length, sized, type Unit } from "../units";

export type { Found } from "../api/client";
export type RegionRow = FoundRegion;
export type Proposal = Proposed;

/** What a region is called: what a person at the bench would say of it. */
export function nameOf(r: RegionRow): string {
  if (r.is_fillet) return "Fillet";
  if (r.is_chamfer) return "Chamfer";
  return surfaceName(r.kind, r.outward < 0);
}

/** Further off than this, in standard uncertainties, and it is no thread of that name. */
const FAR_U = 10;

/** The standard thread that a scanned one can be; none where none is near. */
export function threadName(r: RegionRow): string | null {
  const near = r.candidates[0];
  return near && near.difference_u < FAR_U ? near.designation : null;
}

/** What was measured of a thread. */
export function threadSize(r: RegionRow, unit: Unit): string {
  const { major, pitch } = r.params;
  return `Ø ${sized(major ?? 0, unit).replace(` ${unit}`, "")} × ${length(pitch ?? 0, unit, 1)}`;
}

/** The size that tells regions of a kind apart, in words. */
export function sizeOf(r: RegionRow, unit: Unit): string {
  const p = r.params;
  if (r.is_fillet) return `R ${length(r.ball ?? p.minor_radius ?? p.radius ?? 0, unit)}`;
  if (r.kind === "thread") return threadName(r) ?? threadSize(r, unit);
  return surfaceSize({ ...p, kind: r.kind, minor: p.minor_radius }, unit);
}

/** What sorts and compares sizes, mm or degrees; none where a kind has no size. */
export function sizeMm(r: RegionRow): number | null {
  if (r.is_fillet) return r.ball ?? r.params.minor_radius ?? r.params.radius ?? null;
  if (r.kind === "cylinder") return 2 * (r.params.radius ?? 0);
  if (r.kind === "thread") return r.params.major ?? null;
  if (r.kind === "cone") return r.params.half_angle ?? null;
  return r.params.minor_radius ?? r.params.radius ?? null;
}

/** Regions of the same kind and, within what their fits leave open, of the same size. */
export function alike(one: RegionRow, rows: RegionRow[]): number[] {
  const size = sizeMm(one);
  return rows
    .filter((r) => r.kind === one.kind && nameOf(r) === nameOf(one))
    .filter((r) => {
      const other = sizeMm(r);
      if (size === null || other === null) return true;
      const slack = Math.max(6 * Math.hypot(one.u.radius ?? 0, r.u.radius ?? 0), 0.02 * size);
      return Math.abs(size - other) <= slack;
    })
    .map((r) => r.id);
}

const GROUPS: Record<string, string> = {
  round: "Whole sizes",
  standard: "Standard holes",
  "equal-radius": "Equal radius",
  parallel: "Parallel",
  perpendicular: "Perpendicular",
  angle: "Whole angles",
  coplanar: "Coplanar",
  coaxial: "Coaxial",
  "bolt-circle": "Bolt circle",
  row: "Equal spacing",
  "equal-distance": "Equal distance",
  mirror: "Symmetric",
  draft: "Draft",
};

const RELATIONS: Record<string, string> = {
  size: "Size",
  distance: "Distance",
  "equal-size": "Equal radius",
  angle: "Angle",
};

/** What a relation is called in the intent step. */
export const groupTitle = (kind: string): string => RELATIONS[kind] ?? GROUPS[kind] ?? kind;

/** Proposals by what they are about, in the order that the title list has. */
type Placed = { at: number; p: Proposal };
export function grouped(proposals: Placed[]): { kind: string; title: string; rows: Placed[] }[] {
  return Object.entries(GROUPS)
    .map(([kind, title]) => ({
      kind,
      title,
      rows: proposals.filter((x) => x.p.kind === kind),
    }))
    .filter((g) => g.rows.length > 0);
}

/** The next free name: Hole 1, Hole 2 … */
export function stepNames(rows: RegionRow[], taken: string[]): string[] {
  const used = new Set(taken);
  return rows.map((r) => {
    let n = 1;
    while (used.has(`${nameOf(r)} ${n}`)) n++;
    const name = `${nameOf(r)} ${n}`;
    used.add(name);
    return name;
  });
}

/** What keeping the chosen ones makes of them. */
export function keepWords(chosen: RegionRow[]): string {
  const what = chosen.length > 0 && chosen.every((r) => r.kind === "thread") ? "thread" : "region";
  return chosen.length > 1 ? `Keep ${chosen.length} as ${what}s` : `Keep as a ${what}`;
}
