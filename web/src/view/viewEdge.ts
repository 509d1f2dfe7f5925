/** Where on the edge of the view a place out of sight is to be looked for. No React. */
import { type PerspectiveCamera, Vector3 } from "three";
import type { Vec3 } from "../api/build";

const INSET = 34;

/** Pixels of the view (width, height), a little inside its edge, on the way from its middle to a place; none where the place is seen. */
export function edgeOf(
  camera: PerspectiveCamera,
  place: Vec3,
  width: number,
  height: number,
): { x: number; y: number } | null {
  const eye = new Vector3(...place).applyMatrix4(camera.matrixWorldInverse);
  const rise = Math.tan((camera.fov * Math.PI) / 360);
  // Behind the camera a place lies the way it would be turned to.
  const depth = Math.max(Math.abs(eye.z), 1e-9);
  const x = eye.x / (depth * rise * camera.aspect);
  const y = eye.y / (depth * rise);
  if (eye.z < 0 && Math.abs(x) <= 1 && Math.abs(y) <= 1) return null;
  const most = Math.max(Math.abs(x), Math.abs(y), 1e-9);
  return {
    x: width / 2 + (x / most) * (width / 2 - INSET),
    y: height / 2 - (y / most) * (height / 2 - INSET),
  };
}
