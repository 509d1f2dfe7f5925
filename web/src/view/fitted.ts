import { type Box3, Vector3 } from "three";

const FILLED = 0.88; // of the view, at most

/**
 * Where to look and from how far, so that all corners of a box are seen from a direction and fill so much of the view. Each side of the view is a plane through the eye:
 * the nearest eye is the one that the two outermost corners on opposite sides allow.
 */
export function fitted(
  box: Box3,
  from: Vector3,
  camera: { fov: number; aspect: number; up: Vector3 },
  filled = FILLED,
): { at: Vector3; away: number } {
  const middle = box.getCenter(new Vector3());
  const right = camera.up.clone().cross(from);
  if (right.lengthSq() < 1e-12) right.set(1, 0, 0);
  right.normalize();
  const up = from.clone().cross(right);
  const corners = [box.min, box.max].flatMap((a) =>
    [box.min, box.max].flatMap((b) => [box.min, box.max].map((c) => new Vector3(a.x, b.y, c.z).sub(middle))),
  );
  const at = middle.clone();
  let away = 0;
  const steep = filled * Math.tan((camera.fov * Math.PI) / 360);
  for (const [axis, slope] of [
    [right, steep * camera.aspect],
    [up, steep],
  ] as const) {
    const high = Math.max(...corners.map((p) => p.dot(axis) + slope * p.dot(from)));
    const low = Math.min(...corners.map((p) => p.dot(axis) - slope * p.dot(from)));
    away = Math.max(away, (high - low) / (2 * slope));
    at.addScaledVector(axis, (high + low) / 2);
  }
  return { at, away };
}
