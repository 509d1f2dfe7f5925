/** The section plane as it is turned and moved: vectors only, no React. */
import type { Vec3 } from "../api/build";

const cross = (a: Vec3, b: Vec3): Vec3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const dot = (a: Vec3, b: Vec3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const add = (a: Vec3, b: Vec3, k = 1): Vec3 => [a[0] + k * b[0], a[1] + k * b[1], a[2] + k * b[2]];
const scaled = (a: Vec3, k: number): Vec3 => [k * a[0], k * a[1], k * a[2]];
export const unit = (a: Vec3): Vec3 => scaled(a, 1 / (Math.hypot(...a) || 1));

/** The axis that turns are counted about: the world's, whichever lies flattest in the plane. */
export function uAxisOf(n: Vec3): Vec3 {
  let k = 0;
  const size = n.map((x, i) => Math.abs(x + i * 0) + i * 1e-6);
  for (let i = 1; i < 3; i++) if (size[i]! < size[k]!) k = i;
  const hint: Vec3 = [0, 0, 0];
  hint[k] = 1;
  return unit(add(hint, n, -dot(hint, n)));
}

export interface Turned {
  normal: Vec3;
  u: Vec3;
  v: Vec3;
}

/** Turned about its own first axis, then about its own second one (degrees). */
export function turned(normal: Vec3, turnU: number, turnV: number): Turned {
  const n = unit(normal);
  const u = uAxisOf(n);
  const v = cross(n, u);
  const a = (turnU * Math.PI) / 180;
  const b = (turnV * Math.PI) / 180;
  let m = add(scaled(n, Math.cos(a)), cross(u, n), Math.sin(a));
  m = add(add(scaled(m, Math.cos(b)), cross(v, m), Math.sin(b)), v, dot(v, m) * (1 - Math.cos(b)));
  return { normal: unit(m), u, v };
}

export const movedAlong = (p: Vec3, way: Vec3, mm: number): Vec3 => add(p, way, mm);

/** Where a triangle mesh (positions, three indices a facet) is cut by a plane: pairs of points, xyz xyz … */
export function cutTriangles(
  position: ArrayLike<number>,
  index: ArrayLike<number>,
  origin: Vec3,
  normal: Vec3,
): Float32Array {
  const out: number[] = [];
  const height = (i: number) =>
    (position[3 * i]! - origin[0]) * normal[0] +
    (position[3 * i + 1]! - origin[1]) * normal[1] +
    (position[3 * i + 2]! - origin[2]) * normal[2];
  for (let f = 0; f + 2 < index.length; f += 3) {
    const ids = [index[f]!, index[f + 1]!, index[f + 2]!];
    const h = ids.map(height);
    if (h.every((x) => x > 0) || h.every((x) => x <= 0)) continue;
    for (let e = 0; e < 3; e++) {
      const g = (e + 1) % 3;
      if (h[e]! > 0 === h[g]! > 0) continue;
      const t = h[e]! / (h[e]! - h[g]!);
      for (let d = 0; d < 3; d++) {
        const a = position[3 * ids[e]! + d]!;
        out.push(a + t * (position[3 * ids[g]! + d]! - a));
      }
    }
  }
  return new Float32Array(out);
}

/** The square on a plane around what it cuts: its middle, and half its side with a little room. None where nothing is cut. */
export function frameOf(
  segments: ArrayLike<number>,
  at: Vec3,
  u: Vec3,
  v: Vec3,
): { middle: Vec3; reach: number } | null {
  if (segments.length < 3) return null;
  const [low, high] = [
    [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY],
    [Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY],
  ];
  for (let i = 0; i + 2 < segments.length; i += 3) {
    const d: Vec3 = [segments[i]! - at[0], segments[i + 1]! - at[1], segments[i + 2]! - at[2]];
    [dot(d, u), dot(d, v)].forEach((x, k) => {
      low[k] = Math.min(low[k]!, x);
      high[k] = Math.max(high[k]!, x);
    });
  }
  const [a, b] = [(low[0]! + high[0]!) / 2, (low[1]! + high[1]!) / 2];
  return { middle: add(add(at, u, a), v, b), reach: 0.56 * Math.max(high[0]! - low[0]!, high[1]! - low[1]!) };
}
