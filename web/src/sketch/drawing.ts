/** A drawing as the server knows it, on the screen: where its plane lies, and what its entities are drawn by. No React. */
import type { Vec3 } from "../api/build";
import type { components } from "../api/schema";

export type Kept = components["schemas"]["KeptDrawing"];
export type Shown = components["schemas"]["DrawingOut"];
export type Fit = components["schemas"]["FitOut"];
export type Act = NonNullable<components["schemas"]["DrawingIn"]["acts"]>[number];
export type Entity = NonNullable<Kept["entities"]>[string];
export type XY = [number, number];

/** The sketch's plane in space: u and v along its axes. */
export interface Frame {
  origin: Vec3;
  u: Vec3;
  v: Vec3;
  normal: Vec3;
  /** Its first axis before it was turned. */
  level: Vec3;
}

/** From the plane (mm) to the view's own pixels: x = a·u + c·v + e, y = b·u + d·v + f. */
export interface Sheet {
  a: number;
  b: number;
  c: number;
  d: number;
  e: number;
  f: number;
}

export function frameOf(origin: Vec3, u: Vec3, normal: Vec3, level: Vec3 = u): Frame {
  const [a, b, c] = normal;
  const v: Vec3 = [b * u[2] - c * u[1], c * u[0] - a * u[2], a * u[1] - b * u[0]];
  return { origin, u, v, normal, level };
}

export const inSpace = (f: Frame, [x, y]: XY): Vec3 => f.origin.map((o, i) => o + x * f.u[i]! + y * f.v[i]!) as Vec3;

export function onSheet(f: Frame, p: Vec3): XY {
  const d = p.map((x, i) => x - f.origin[i]!);
  const dot = (w: Vec3) => d[0]! * w[0] + d[1]! * w[1] + d[2]! * w[2];
  return [dot(f.u), dot(f.v)];
}

export const toScreen = (s: Sheet, [x, y]: XY): XY => [s.a * x + s.c * y + s.e, s.b * x + s.d * y + s.f];

/** Back from pixels to the plane; none where it is seen edge-on. */
export function toPlane(s: Sheet, [px, py]: XY): XY | null {
  const det = s.a * s.d - s.b * s.c;
  if (Math.abs(det) < 1e-9) return null;
  const x = px - s.e;
  const y = py - s.f;
  return [(s.d * x - s.c * y) / det, (s.a * y - s.b * x) / det];
}

/** Millimetres on the plane that one pixel covers. */
export const mmPerPixel = (s: Sheet): number => 1 / Math.sqrt(Math.max(Math.abs(s.a * s.d - s.b * s.c), 1e-12));

export const at = (kept: Kept, point: string): XY | null => {
  const e = kept.entities?.[point];
  return e?.kind === "point" ? [e.at[0], e.at[1]] : null;
};

/** Points that an entity is drawn by, ends first. */
export function pointsOf(kept: Kept, id: string): string[] {
  const e = kept.entities?.[id];
  if (!e) return [];
  const named = (...ids: (string | null | undefined)[]) => ids.filter((p): p is string => typeof p === "string");
  switch (e.kind) {
    case "point":
      return [id];
    case "line":
      return [e.from, e.to];
    case "circle":
      return [e.centre];
    case "arc":
      return [e.from, e.to, e.centre];
    case "ellipse":
      return named(e.from, e.to, e.centre, e.major);
    case "spline":
      return e.through?.length ? [...e.through] : [...(e.control ?? [])];
  }
}

/** Points at which an entity begins and ends. */
export function endsOf(kept: Kept, id: string): string[] {
  const e = kept.entities?.[id];
  if (e?.kind === "line" || e?.kind === "arc") return [e.from, e.to];
  if (e?.kind === "ellipse") return e.from && e.to ? [e.from, e.to] : [];
  if (e?.kind !== "spline") return [];
  const over = e.through?.length ? e.through : (e.control ?? []);
  return over.length ? [over[0]!, over.at(-1)!] : [];
}

export const isCurve = (kept: Kept, id: string): boolean => {
  const kind = kept.entities?.[id]?.kind;
  return kind !== undefined && kind !== "point";
};

const WORDS: Record<Entity["kind"], string> = {
  point: "point",
  line: "line",
  circle: "circle",
  arc: "arc",
  ellipse: "ellipse",
  spline: "spline",
};

/** What an entity is called where people read it. */
export const called = (kept: Kept, id: string): string => {
  const kind = kept.entities?.[id]?.kind;
  return kind ? `${WORDS[kind]} ${id}` : id;
};

export const gap = (a: XY, b: XY): number => Math.hypot(a[0] - b[0], a[1] - b[1]);

/** Pieces of sections that close gaps of the scan: nobody has seen what they stand for. */
export function assumedIn(kept: Kept): ReadonlySet<string> {
  const pieces = (kept.taken ?? []).flatMap((loop) => loop.pieces);
  return new Set(pieces.filter((p) => p.taken && p.assumed && kept.entities?.[p.id]).map((p) => p.id));
}

/** The nearest place on a path of chords, and how far it lies. */
export function footOn(path: readonly XY[], p: XY): { at: XY; off: number } | null {
  let best: { at: XY; off: number } | null = null;
  for (let i = 1; i < path.length; i++) {
    const a = path[i - 1]!;
    const b = path[i]!;
    const dx = b[0] - a[0];
    const dy = b[1] - a[1];
    const t = Math.max(0, Math.min(1, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / (dx * dx + dy * dy || 1)));
    const foot: XY = [a[0] + t * dx, a[1] + t * dy];
    const off = gap(foot, p);
    if (!best || off < best.off) best = { at: foot, off };
  }
  return best;
}

/** The middle of a path, by its length. */
export function middleOf(path: readonly XY[]): XY {
  const long = path.slice(1).map((p, i) => gap(p, path[i]!));
  let left = long.reduce((s, x) => s + x, 0) / 2;
  for (let i = 0; i < long.length; i++) {
    if (left <= long[i]! || i === long.length - 1) {
      const t = long[i] ? left / long[i]! : 0;
      const [a, b] = [path[i]!, path[i + 1]!];
      return [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
    }
    left -= long[i]!;
  }
  return path[0] ?? [0, 0];
}
