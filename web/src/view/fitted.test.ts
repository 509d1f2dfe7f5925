import { Box3, PerspectiveCamera, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { fitted } from "./fitted";

const corners = (box: Box3) =>
  [0, 1, 2, 3, 4, 5, 6, 7].map(
    (k) => new Vector3(k & 1 ? box.max.x : box.min.x, k & 2 ? box.max.y : box.min.y, k & 4 ? box.max.z : box.min.z),
  );

/** How far the corners of a box reach in the view, where 1 is its border. */
function reach(box: Box3, from: Vector3, aspect: number, fov: number) {
  const camera = new PerspectiveCamera(fov, aspect, 0.01, 1e5);
  camera.up.set(0, 0, 1);
  const { at, away } = fitted(box, from, camera);
  camera.position.copy(at).addScaledVector(from, away);
  camera.lookAt(at);
  camera.updateMatrixWorld();
  const seen = corners(box).map((p) => p.project(camera));
  const span = (of: (p: Vector3) => number) => [Math.min(...seen.map(of)), Math.max(...seen.map(of))] as const;
  return { x: span((p) => p.x), y: span((p) => p.y) };
}

const BOXES = [
  new Box3(new Vector3(-10, -10, -10), new Vector3(30, 10, 10)),
  new Box3(new Vector3(0, 0, 0), new Vector3(1, 200, 3)),
  new Box3(new Vector3(-5, -7, 40), new Vector3(60, 7, 300)),
];
const WAYS = [
  new Vector3(0.62, -0.86, 0.62),
  new Vector3(-0.2, 0.1, 1),
  new Vector3(1, 0, 0),
  new Vector3(0, -0.004, 1),
];

describe("a box fitted into the view", () => {
  it.each(BOXES.flatMap((box) => WAYS.flatMap((way) => [0.6, 1, 1.9].map((aspect) => ({ box, way, aspect })))))(
    "fills it in one direction, and is seen whole in the other ($aspect)",
    ({ box, way, aspect }) => {
      const { x, y } = reach(box, way.clone().normalize(), aspect, 35);
      const far = [x[1], -x[0], y[1], -y[0]];
      expect(Math.max(...far)).toBeLessThan(0.881);
      // Its two outermost corners lie as far from the two sides that they are near to.
      const tight = Math.max(x[1] - x[0], y[1] - y[0]);
      expect(tight).toBeCloseTo(1.76, 2);
    },
  );

  it("straight from above", () => {
    const { at, away } = fitted(BOXES[0]!, new Vector3(0, 0, 1), { fov: 35, aspect: 1, up: new Vector3(0, 0, 1) });
    expect(at.toArray()).toEqual([10, 0, 0]);
    expect(away).toBeCloseTo(10 + 20 / (0.88 * Math.tan((35 * Math.PI) / 360)), 6);
  });
});
