/** The square and the slanted ways to look at a part. No React. */
import type { Vec3 } from "../api/build";

export interface Side {
  key: string;
  name: string;
  title: string;
  /** From the part to the eye. */
  from: Vec3;
}

export const SIDES: Side[] = [
  { key: "1", name: "front", title: "Look from the front", from: [0, -1, 0] },
  { key: "2", name: "back", title: "Look from the back", from: [0, 1, 0] },
  { key: "3", name: "left", title: "Look from the left", from: [-1, 0, 0] },
  { key: "4", name: "right", title: "Look from the right", from: [1, 0, 0] },
  { key: "5", name: "top", title: "Look from the top", from: [0, 0, 1] },
  { key: "6", name: "bottom", title: "Look from below", from: [0, 0, -1] },
  { key: "7", name: "front right", title: "Look slanted, from front right above", from: [0.62, -0.86, 0.62] },
  { key: "8", name: "front left", title: "Look slanted, from front left above", from: [-0.62, -0.86, 0.62] },
  { key: "9", name: "from below", title: "Look slanted, from front right below", from: [0.62, -0.86, -0.62] },
];
