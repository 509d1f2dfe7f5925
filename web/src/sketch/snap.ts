/** Where the pointer is meant to be: on a point, a middle, a curve, a piece of the section, the grid, or level with where one came from. No React. */
import { directed } from "./directions";
import { endsOf, footOn, gap, isCurve, type Kept, middleOf, type Shown, type XY } from "./drawing";
import type { RelationKind } from "./relations";

export interface SnapSwitches {
  points: boolean;
  middles: boolean;
  curves: boolean;
  evidence: boolean;
  directions: boolean;
  /** Spacing in mm; none where it is off. */
  grid: number | null;
}

/** What lies under the drawing: pieces of the scan's section and cuts of bodies, on the plane. */
export interface Underlay {
  paths: readonly XY[][];
  ends: readonly XY[];
}

export interface Snap {
  at: XY;
  /** What is said at the pointer. */
  said: string;
  point?: string;
  on?: string[];
  middle?: string;
  /** What a line to here would have to do with what is there. */
  relation?: { kind: RelationKind; to?: string };
}

interface Asked {
  pointer: XY;
  /** mm that the pointer may be off. */
  within: number;
  shown: Shown;
  under: Underlay;
  snaps: SnapSwitches;
  /** Where the line begins that is being drawn. */
  from?: XY | null;
  /** Curves that it begins on. */
  on?: readonly string[];
  /** Points that are no target: what is being drawn or dragged itself. */
  without?: readonly string[];
}

const nearest = <T extends { off: number }>(rows: readonly T[], within: number): T | null => {
  let best: T | null = null;
  for (const r of rows) if (r.off <= within && (!best || r.off < best.off)) best = r;
  return best;
};

function pointNear(kept: Kept, p: XY, within: number, without: readonly string[]): Snap | null {
  const rows = Object.entries(kept.entities ?? {}).flatMap(([id, e]) =>
    e.kind === "point" && !without.includes(id)
      ? [{ id, place: [e.at[0], e.at[1]] as XY, off: gap([e.at[0], e.at[1]], p) }]
      : [],
  );
  const hit = nearest(rows, within);
  if (!hit) return null;
  const centre = Object.values(kept.entities ?? {}).some((e) => "centre" in e && e.centre === hit.id);
  const end = Object.keys(kept.entities ?? {}).some((id) => endsOf(kept, id).includes(hit.id));
  return { at: hit.place, said: end ? "end" : centre ? "centre" : "point", point: hit.id };
}

/** The snap that is nearest, points before middles before curves before what lies under them before directions. */
export function snapped({ pointer, within, shown, under, snaps, from, on = [], without = [] }: Asked): Snap {
  const kept = shown.drawing;
  const free: Snap = { at: pointer, said: "" };
  if (snaps.points) {
    const hit = pointNear(kept, pointer, within, without);
    if (hit) return hit;
  }
  const curves = Object.entries(shown.paths).filter(([id]) => isCurve(kept, id));
  if (snaps.middles) {
    const rows = curves
      .filter(([id]) => kept.entities?.[id]?.kind === "line" || kept.entities?.[id]?.kind === "arc")
      .map(([id, path]) => ({ id, place: middleOf(path) }))
      .map((r) => ({ ...r, off: gap(r.place, pointer) }));
    const hit = nearest(rows, within);
    if (hit) return { at: hit.place, said: `middle of ${hit.id}`, middle: hit.id };
  }
  if (snaps.evidence) {
    const hit = nearest(
      under.ends.map((place) => ({ place, off: gap(place, pointer) })),
      within,
    );
    if (hit) return { at: hit.place, said: "end of a section piece" };
  }
  const level = snaps.directions && from ? directed({ pointer, from, within, shown, on }) : null;
  if (level?.on) return level;
  if (snaps.curves) {
    const rows = curves.flatMap(([id, path]) => {
      const foot = footOn(path, pointer);
      return foot ? [{ id, place: foot.at, off: foot.off }] : [];
    });
    const hit = nearest(rows, within);
    if (hit) return { at: hit.place, said: `on ${hit.id}`, on: [hit.id] };
  }
  if (snaps.evidence) {
    const rows = under.paths.flatMap((path) => {
      const foot = footOn(path, level?.at ?? pointer);
      return foot ? [{ place: foot.at, off: foot.off }] : [];
    });
    const hit = nearest(rows, within);
    if (hit) return { ...level, at: hit.place, said: level ? `${level.said}, on the section` : "on the section" };
  }
  if (level) return level;
  if (snaps.grid) {
    const g = snaps.grid;
    const place: XY = [Math.round(pointer[0] / g) * g, Math.round(pointer[1] / g) * g];
    return { at: place, said: "grid" };
  }
  return free;
}

/** The entity under the pointer, points first. */
export function entityNear(shown: Shown, pointer: XY, within: number): string | null {
  const hit = pointNear(shown.drawing, pointer, within, []);
  if (hit?.point) return hit.point;
  const rows = Object.entries(shown.paths).flatMap(([id, path]) => {
    const foot = footOn(path, pointer);
    return foot ? [{ id, off: foot.off }] : [];
  });
  return nearest(rows, within)?.id ?? null;
}

/** The innermost region that the pointer is in. */
export function regionAt(shown: Shown, pointer: XY): string | null {
  const inside = shown.regions.filter(
    (r) => r.rings.filter((ring) => within(ring, pointer)).length === 1 && within(r.rings[0]!, pointer),
  );
  return inside.sort((a, b) => a.area - b.area)[0]?.name ?? null;
}

function within(ring: readonly XY[], [x, y]: XY): boolean {
  let inside = false;
  for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
    const [ax, ay] = ring[i]!;
    const [bx, by] = ring[j]!;
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
  }
  return inside;
}

/** A spot as acts take it. */
export const spotOf = (s: Snap) => ({
  at: s.at,
  point: s.point ?? null,
  on: s.on ?? [],
  middle: s.middle ?? null,
});
