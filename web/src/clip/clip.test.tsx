import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { BoxGeometry, Mesh, PerspectiveCamera, Plane, Quaternion, Vector3 } from "three";
import { mergeGeometries } from "three/addons/utils/BufferGeometryUtils.js";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { pickEdges } from "../pick/edges";
import { resetBench } from "../shell/reset";
import { onBench } from "../test/bench";
import { light } from "../theme";
import { pickBodies, pivotShift, project, setDepth, setParallel, stage } from "../view/stage";
import { edgeOf } from "../view/viewEdge";
import { cutOfMesh } from "./CutLines";
import { clipPlanes, cutOf, isKept, planeOf, type SectionView, useClip } from "./clip";
import { hatch, leanOf } from "./hatch";
import { SectionBar } from "./SectionBar";

const view = (part: Partial<SectionView> = {}): SectionView => ({
  along: "z",
  origin: [0, 0, 0],
  normal: [0, 0, 2],
  offset: 3,
  flipped: false,
  ...part,
});

/** A cube of 20 mm about the origin, seen from above, with an edge on its top and one halfway down. */
function staged() {
  const camera = new PerspectiveCamera(28, 4 / 3, 1, 1000);
  camera.position.set(0, 0, 100);
  camera.updateMatrixWorld(true);
  const mesh = new Mesh(new BoxGeometry(20, 20, 20));
  const positions = new Float32Array([-10, 10, 10, 10, 10, 10, -10, 9, 0, 10, 9, 0]);
  const target = new Vector3();
  const canvas = { clientHeight: 600, getBoundingClientRect: () => ({ left: 0, top: 0, width: 800, height: 600 }) };
  const controls = { target, update: () => camera.updateMatrixWorld(true) };
  stage.now = { camera, controls, canvas, gl: null, invalidate: () => undefined } as never;
  stage.radius = 18;
  stage.bodies.set("b", {
    id: "b",
    key: "k",
    mesh,
    faces: new Uint32Array(12).map((_, t) => t >> 1),
    edges: { positions, edgeOf: new Uint32Array([0, 1]) },
  });
  return { camera, mesh };
}

beforeEach(resetBench);
afterEach(() => {
  stage.now = null;
  stage.bodies.clear();
});

describe("what a section view keeps", () => {
  it("is what lies behind its plane, on either side as wanted", () => {
    const plane = planeOf(view());
    expect(plane.distanceToPoint(new Vector3(5, 5, 3))).toBeCloseTo(0);
    expect(plane.distanceToPoint(new Vector3(0, 0, 1))).toBeCloseTo(2); // kept: three.js keeps what is in front
    expect(plane.distanceToPoint(new Vector3(0, 0, 9))).toBeCloseTo(-6);
    expect(planeOf(view({ flipped: true })).distanceToPoint(new Vector3(0, 0, 9))).toBeCloseTo(6);
    expect(cutOf(view({ flipped: true }))).toEqual({ at: [0, 0, 3], away: [-0, -0, -1] });
  });

  it("is the same list of planes until something changes, and the open section's comes first", () => {
    expect(clipPlanes()).toEqual([]);
    expect(isKept([0, 0, 99])).toBe(true);
    useClip.getState().set(view());
    const once = clipPlanes();
    expect(clipPlanes()).toBe(once);
    expect([isKept([0, 0, 2]), isKept([0, 0, 3]), isKept([0, 0, 4])]).toEqual([true, true, false]);
    useClip.getState().change({ offset: 5 });
    expect(isKept([0, 0, 4])).toBe(true);
    const passing = new Plane(new Vector3(1, 0, 0), 0);
    useClip.getState().pass(passing);
    expect(clipPlanes()).toEqual([passing]);
    useClip.getState().pass(null);
    expect(isKept([-5, 0, 4])).toBe(true);
  });

  it("is what picks meet: the floor of a hollow body and not its lid, and nothing through cut material", () => {
    const { mesh } = staged();
    const lid = pickBodies(400, 300)[0]!;
    expect(lid.point[2]).toBeCloseTo(10);
    useClip.getState().set(view({ offset: 0 }));
    expect(pickBodies(400, 300)).toEqual([]); // the cut of a solid cube
    // A cavity in the middle: a smaller cube turned inside out.
    (mesh as Mesh).geometry = mergeGeometries([
      new BoxGeometry(20, 20, 20),
      new BoxGeometry(10, 10, 10).scale(-1, 1, 1),
    ]);
    expect(pickBodies(400, 300)[0]!.point[2]).toBeCloseTo(-5);
    const wall = project([8, 0, 0]);
    expect(pickBodies(wall.x, wall.y)).toEqual([]);
    useClip.getState().change({ flipped: true });
    expect(pickBodies(wall.x, wall.y)[0]!.point[2]).toBeCloseTo(10); // the other half is as it was
    useClip.getState().change({ flipped: false });
    const over = project([0, 10, 10]);
    expect(pickEdges(over.x, over.y, true).map((h) => h.edge)).not.toContain(0);
    useClip.getState().set(null);
    expect(pickEdges(over.x, over.y, true).map((h) => h.edge)).toContain(0);
  });

  it("cuts a mesh in lines that lie in the plane, wherever the mesh stands", () => {
    const { mesh } = staged();
    mesh.position.set(0, 0, 7);
    const cut = cutOfMesh(mesh, [0, 0, 5], [0, 0, 1]);
    expect(cut.length).toBeGreaterThan(0);
    for (let i = 0; i < cut.length; i += 3) {
      expect(cut[i + 2]).toBeCloseTo(5);
      expect(Math.max(Math.abs(cut[i]!), Math.abs(cut[i + 1]!))).toBeCloseTo(10);
    }
    expect(cutOfMesh(mesh, [0, 0, 50], [0, 0, 1])).toHaveLength(0);
  });

  it("hatches neighbours in different ways", () => {
    expect(new Set([0, 1, 2, 3, 4].map(leanOf)).size).toBe(5);
    expect(leanOf(6)).not.toBe(leanOf(5));
    const [a, b] = [hatch(light, 0), hatch(light, 1)];
    expect(a.uniforms.lean!.value).not.toEqual(b.uniforms.lean!.value);
  });
});

describe("the bar of the section view", () => {
  it("moves the plane, turns it round and takes it away", async () => {
    onBench(<SectionBar />);
    expect(screen.queryByRole("toolbar")).toBeNull();
    useClip.getState().set(view());
    const moved = await screen.findByRole("textbox", { name: "Section view: moved by" });
    await userEvent.clear(moved);
    await userEvent.type(moved, "4.5 mm{Enter}");
    expect(useClip.getState().lasting?.offset).toBe(4.5);
    await userEvent.type(moved, " + bore_d{Enter}"); // only the server could say: the plane stays
    expect(useClip.getState().lasting?.offset).toBe(4.5);
    await userEvent.click(screen.getByRole("button", { name: "Other side" }));
    expect(useClip.getState().lasting?.flipped).toBe(true);
    expect(screen.queryByText("chosen")).toBeNull(); // nothing flat is picked
    await userEvent.click(screen.getByRole("button", { name: "Whole part" }));
    expect(useClip.getState().lasting).toBeNull();
  });
});

describe("the view", () => {
  it("in parallel shows the place looked at in the same size, and far things as large as near ones", () => {
    staged();
    const width = (z: number) => project([10, 0, z]).x - project([-10, 0, z]).x;
    const [near, middle] = [width(10), width(0)];
    expect(near / middle).toBeGreaterThan(1.1);
    setParallel(true);
    setDepth();
    expect(width(0)).toBeCloseTo(middle, 3);
    expect(width(10) / width(-10)).toBeCloseTo(1, 2);
    expect(project([0, 0, 0]).visible).toBe(true);
    setParallel(false);
    expect(width(10)).toBeCloseTo(near, 3);
  });

  it("turned about a place leaves the place where it was on the screen", () => {
    const { camera } = staged();
    const pivot = new Vector3(7, -3, 10);
    const target = stage.now!.controls!.target;
    const seen = () => project(pivot.toArray());
    const was = seen();
    const before = camera.quaternion.clone();
    // As the controls do it: about their own target.
    const turn = new Quaternion().setFromAxisAngle(new Vector3(0.3, 1, 0.2).normalize(), 0.4);
    camera.position.sub(target).applyQuaternion(turn).add(target);
    camera.quaternion.premultiply(turn);
    camera.updateMatrixWorld(true);
    expect(Math.hypot(seen().x - was.x, seen().y - was.y)).toBeGreaterThan(5);
    const shift = pivotShift(pivot, target, before, camera.quaternion);
    camera.position.add(shift);
    target.add(shift);
    camera.updateMatrixWorld(true);
    expect(seen().x).toBeCloseTo(was.x, 6);
    expect(seen().y).toBeCloseTo(was.y, 6);
  });

  it("marks the way to what is out of sight at its edge", () => {
    const { camera } = staged();
    expect(edgeOf(camera, [0, 0, 0], 800, 600)).toBeNull();
    const right = edgeOf(camera, [500, 0, 0], 800, 600)!;
    expect(right.x).toBeCloseTo(800 - 34);
    expect(right.y).toBeCloseTo(300);
    const above = edgeOf(camera, [0, 500, 0], 800, 600)!;
    expect(above.y).toBeCloseTo(34);
    const behind = edgeOf(camera, [-50, 0, 200], 800, 600)!;
    expect(behind.x).toBeLessThan(400);
    for (const at of [right, above, behind]) {
      expect(at.x >= 0 && at.x <= 800 && at.y >= 0 && at.y <= 600).toBe(true);
    }
  });
});
