import { Box3, PerspectiveCamera, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { fartherFor, hasLeft } from "./keptInView";

/** Looks down at the zero from 300 mm, opening by 28 degrees. */
function camera() {
  const made = new PerspectiveCamera(28, 1.4, 1, 5000);
  made.position.set(0, 0, 300);
  made.lookAt(0, 0, 0);
  return made;
}

const box = (x: number, y: number, z = 5) => new Box3(new Vector3(-x, -y, -z), new Vector3(x, y, z));

/** Whether all corners of a box are seen by it. */
function seen(of: Box3, by: PerspectiveCamera, aspect: number) {
  by.aspect = aspect;
  by.updateProjectionMatrix();
  by.updateMatrixWorld();
  const corners = [of.min, of.max].flatMap((a) => [of.min, of.max].map((b) => new Vector3(a.x, b.y, of.max.z)));
  return corners.every((p) => Math.abs(p.clone().project(by).x) <= 1 && Math.abs(p.clone().project(by).y) <= 1);
}

describe("what was in the view", () => {
  it("is in a narrower one after the camera has stood back by what is told", () => {
    const wide = box(95, 30);
    const by = camera();
    expect(seen(wide, by, 1.4)).toBe(true);
    expect(seen(wide, by, 0.9)).toBe(false);
    const mm = fartherFor(wide, by, 1.4, 0.9)!;
    expect(mm).toBeGreaterThan(50);
    by.position.z += mm;
    expect(seen(wide, by, 0.9)).toBe(true);
    // And no farther than that.
    by.position.z -= 0.05 * mm + 15;
    expect(seen(wide, by, 0.9)).toBe(false);
  });

  it("needs no step back where it fits all the same", () => {
    expect(fartherFor(box(40, 30), camera(), 1.4, 0.9)).toBe(0);
  });

  it("is not asked for where somebody has come closer, or nothing is there", () => {
    expect(fartherFor(box(200, 30), camera(), 1.4, 0.9)).toBeNull();
    expect(fartherFor(new Box3(), camera(), 1.4, 0.9)).toBeNull();
  });
});

describe("what is put elsewhere", () => {
  const aside = box(40, 30).translate(new Vector3(120, 0, 0));

  it("has left the view when part of it is beyond its border", () => {
    expect(hasLeft(box(40, 30), aside, camera())).toBe(true);
    expect(hasLeft(box(40, 30), box(30, 40), camera())).toBe(false);
  });

  it("has not where part of it was beyond the border before, as of one that somebody has come close to", () => {
    expect(hasLeft(box(200, 30), aside, camera())).toBe(false);
    expect(hasLeft(new Box3(), aside, camera())).toBe(false);
  });
});
