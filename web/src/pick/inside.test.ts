import { BoxGeometry, type BufferAttribute, Mesh, PerspectiveCamera } from "three";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { useClip } from "../clip/clip";
import { insidePolygon } from "../view/flat";
import { stage } from "../view/stage";
import { bodiesInside, edgesInside, facesInside } from "./inside";
import { usePicks } from "./picks";

const rect = (x0: number, y0: number, x1: number, y1: number) => [
  { x: x0, y: y0 },
  { x: x1, y: y0 },
  { x: x1, y: y1 },
  { x: x0, y: y1 },
];

/** A cube of 20 mm seen straight from above, with its four upper edges and one below it. */
function staged() {
  const camera = new PerspectiveCamera(50, 4 / 3, 1, 1000);
  camera.position.set(0, 0, 100);
  camera.updateMatrixWorld(true);
  const mesh = new Mesh(new BoxGeometry(20, 20, 20));
  const faces = new Uint32Array(12).map((_, t) => t >> 1);
  const [a, z] = [10, 10];
  const positions = new Float32Array([
    -a, -a, z, a, -a, z, a, -a, z, a, a, z, a, a, z, -a, a, z, -a, a, z, -a, -a, z, -a, 0, -z, a, 0, -z,
  ]); // biome-ignore format: five segments
  stage.now = {
    camera,
    controls: null,
    canvas: { getBoundingClientRect: () => ({ left: 0, top: 0, width: 800, height: 600 }) },
    gl: null,
    invalidate: () => undefined,
  } as never;
  stage.bodies.set("b", {
    id: "b",
    key: "k",
    mesh,
    faces,
    edges: { positions, edgeOf: new Uint32Array([0, 1, 2, 3, 4]) },
  });
  mesh.geometry.setAttribute("position", mesh.geometry.getAttribute("position") as BufferAttribute);
}

describe("what lies inside a lasso", () => {
  beforeEach(staged);
  afterEach(() => {
    stage.now = null;
    stage.bodies.clear();
  });
  const all = rect(100, 0, 700, 600);
  const right = rect(400, 0, 700, 600);
  const at = (hits: { at: number }[]) => hits.map((h) => h.at).sort();

  it("takes whole edges, those that are touched, and hidden ones only when asked", () => {
    expect(at(edgesInside(all, { whole: true, through: false }))).toEqual([0, 1, 2, 3]);
    expect(at(edgesInside(all, { whole: true, through: true }))).toEqual([0, 1, 2, 3, 4]);
    expect(at(edgesInside(right, { whole: true, through: false }))).toEqual([1]);
    expect(at(edgesInside(right, { whole: false, through: false }))).toEqual([0, 1, 2]);
  });

  it("takes faces likewise", () => {
    expect(facesInside(all, { whole: true, through: true })).toHaveLength(6);
    const seen = at(facesInside(all, { whole: true, through: false }));
    expect(seen).toContain(4); // the one that looks up
    expect(seen).not.toContain(5);
    expect(facesInside(rect(0, 0, 9, 9), { whole: false, through: true })).toEqual([]);
  });

  it("takes bodies as a whole, or as soon as anything of them lies inside", () => {
    expect(bodiesInside(all, { whole: true, through: false }).map((h) => h.body)).toEqual(["b"]);
    expect(bodiesInside(right, { whole: true, through: true })).toEqual([]);
    expect(bodiesInside(right, { whole: false, through: false })).toHaveLength(1);
    expect(bodiesInside(rect(0, 0, 9, 9), { whole: false, through: true })).toEqual([]);
  });

  it("takes nothing of what the section view has cut away", () => {
    const { set } = useClip.getState();
    set({ along: "z", origin: [0, 0, 0], normal: [0, 0, 1], offset: 0, flipped: false });
    expect(at(edgesInside(all, { whole: false, through: true }))).toEqual([4]);
    set({ along: "z", origin: [0, 0, 0], normal: [0, 0, 1], offset: 0, flipped: true });
    expect(at(edgesInside(all, { whole: false, through: true }))).toEqual([0, 1, 2, 3]);
    set(null);
  });

  it("knows inside from outside of what is not convex", () => {
    const hook = [{ x: 0, y: 0 }, { x: 9, y: 0 }, { x: 9, y: 9 }, { x: 6, y: 9 }, { x: 6, y: 3 }, { x: 0, y: 3 }]; // biome-ignore format: one shape
    expect([insidePolygon(1, 1, hook), insidePolygon(7, 8, hook), insidePolygon(3, 6, hook)]).toEqual([
      true,
      true,
      false,
    ]);
  });

  it("adds to what is in hand, and takes away from it", () => {
    const pick = (index: number) => ({ body: "b", key: "k", index, edge: {} as never });
    const { setParts } = usePicks.getState();
    setParts({ edges: [pick(0), pick(1)] }, [0, 0, 0], "replace");
    setParts({ edges: [pick(1), pick(2)] }, null, "add");
    expect(usePicks.getState().edges.map((e) => e.index)).toEqual([0, 1, 2]);
    setParts({ edges: [pick(0)] }, null, "take");
    expect(usePicks.getState().edges.map((e) => e.index)).toEqual([1, 2]);
    expect(usePicks.getState().anchor).toEqual([0, 0, 0]);
    usePicks.getState().clear();
  });
});
