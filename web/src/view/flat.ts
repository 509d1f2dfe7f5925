/** Points of a plane on its own two axes. No React. */
import type { Vec3 } from "../api/build";

export interface Flat {
  x: number;
  y: number;
}

/** From space onto the plane through `origin` with the axes u and normal × u. */
export function flattened(origin: Vec3, u: Vec3, normal: Vec3): (p: Vec3) => Flat {
  const [a, b, c] = normal;
  const v = [b * u[2] - c * u[1], c * u[0] - a * u[2], a * u[1] - b * u[0]];
  return (p) => {
    const d = [p[0] - origin[0], p[1] - origin[1], p[2] - origin[2]];
    return { x: d[0]! * u[0] + d[1]! * u[1] + d[2]! * u[2], y: d[0]! * v[0]! + d[1]! * v[1]! + d[2]! * v[2]! };
  };
}

/** Whether a place lies inside a closed polygon, by even and odd. */
export function insidePolygon(x: number, y: number, polygon: readonly Flat[]): boolean {
  let inside = false;
  for (let i = 0, j = polygon.length - 1; i < polygon.length; j = i++) {
    const a = polygon[i]!;
    const b = polygon[j]!;
    if (a.y > y !== b.y > y && x < ((b.x - a.x) * (y - a.y)) / (b.y - a.y) + a.x) inside = !inside;
  }
  return inside;
}
