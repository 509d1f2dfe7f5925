/** Angles about an axis. No React. */
import type { Vec3 } from "../api/build";

const RAD = Math.PI / 180;
const dot = (a: Vec3, b: Vec3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: Vec3, b: Vec3): Vec3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

/** `zero` (unit, square to the axis) turned about the axis (unit) by so many degrees. */
export function turnedBy(zero: Vec3, axis: Vec3, deg: number): Vec3 {
  const [c, s, side] = [Math.cos(deg * RAD), Math.sin(deg * RAD), cross(axis, zero)];
  return [0, 1, 2].map((i) => c * zero[i]! + s * side[i]!) as Vec3;
}

/** Degrees from `zero` to where a place lies about the axis, whole turns added so that it is nearest to `near`. */
export function angleAt(from: Vec3, zero: Vec3, axis: Vec3, near: number): number {
  const deg = Math.atan2(dot(from, cross(axis, zero)), dot(from, zero)) / RAD;
  return deg + 360 * Math.round((near - deg) / 360);
}

/** Points of the arc from nothing to so many degrees, radius 1, every five degrees at most. */
export function arcPoints(zero: Vec3, axis: Vec3, deg: number): Vec3[] {
  const n = Math.max(1, Math.ceil(Math.abs(deg) / 5));
  return Array.from({ length: n + 1 }, (_, k) => turnedBy(zero, axis, (deg * k) / n));
}
