/** Rigid placements: 4x4 matrices by rows, as the API gives them. */
import type { Vec3 } from "../api/build";

export type Pose = number[][];

export const STILL: Pose = [
  [1, 0, 0, 0],
  [0, 1, 0, 0],
  [0, 0, 1, 0],
  [0, 0, 0, 1],
];

/** A point taken along. */
export function placedPoint(pose: Pose, p: Vec3): Vec3 {
  return [0, 1, 2].map((i) => pose[i]![0]! * p[0] + pose[i]![1]! * p[1] + pose[i]![2]! * p[2] + pose[i]![3]!) as Vec3;
}

/** The point that the pose takes to p. */
export function rawPoint(pose: Pose, p: Vec3): Vec3 {
  const d = [0, 1, 2].map((i) => p[i]! - pose[i]![3]!);
  return [0, 1, 2].map((j) => pose[0]![j]! * d[0]! + pose[1]![j]! * d[1]! + pose[2]![j]! * d[2]!) as Vec3;
}

export function inversePose(pose: Pose): Pose {
  const shift = rawPoint(pose, [0, 0, 0]);
  return [0, 1, 2].map((i) => [pose[0]![i]!, pose[1]![i]!, pose[2]![i]!, shift[i]!]).concat([[0, 0, 0, 1]]);
}

export function timesPose(a: Pose, b: Pose): Pose {
  return a.map((row) => [0, 1, 2, 3].map((j) => row.reduce((sum, v, k) => sum + v * b[k]![j]!, 0)));
}
