import { type Box3, type PerspectiveCamera, Vector3 } from "three";

const BESIDE = 1.02; // corners a little past the border count as in the view: edges of the part are seldom there
const FILLED = 0.97; // of the narrower view

/**
 * How much farther (mm) a camera has to stand, looking the same way, so that a box that was all in the view is so in one of another
 * width to height. None where it was not all in the view: somebody has come closer.
 */
export function fartherFor(box: Box3, camera: PerspectiveCamera, before: number, now: number): number | null {
  camera.updateMatrixWorld();
  const steep = Math.tan((camera.fov * Math.PI) / 360);
  const corners = [box.min, box.max].flatMap((a) =>
    [box.min, box.max].flatMap((b) =>
      [box.min, box.max].map((c) => new Vector3(a.x, b.y, c.z).applyMatrix4(camera.matrixWorldInverse)),
    ),
  );
  const needed = (p: Vector3, aspect: number, filled: number) =>
    Math.max(Math.abs(p.x) / aspect, Math.abs(p.y)) / (steep * filled) + p.z;
  if (box.isEmpty() || corners.some((p) => needed(p, before, BESIDE) > 0)) return null;
  return Math.max(0, ...corners.map((p) => needed(p, now, FILLED)));
}

/** Whether all of something was in the view where it was, and no longer is where it is now. */
export function hasLeft(was: Box3, now: Box3, camera: PerspectiveCamera): boolean {
  const seen = (box: Box3) => fartherFor(box, camera, camera.aspect, camera.aspect) !== null;
  return seen(was) && !seen(now);
}
