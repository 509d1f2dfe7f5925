import { Box3, Quaternion, Vector3 } from "three";
import { beforeEach, describe, expect, it } from "vitest";
import { useClip } from "../clip/clip";
import { resetBench } from "../shell/reset";
import { addBlock, addScan, HEIGHT, setStage, WIDTH } from "../test/staged";
import {
  alongLine,
  awayFromCamera,
  bodiesBox,
  faceOn,
  fitView,
  flyTo,
  goTo,
  lookFrom,
  onPlane,
  pickBodies,
  pickScan,
  pivotShift,
  pixelSize,
  previousView,
  project,
  sceneBox,
  setDepth,
  setParallel,
  stage,
  standBack,
} from "./stage";

const MIDDLE = { x: 10 + WIDTH / 2, y: 20 + HEIGHT / 2 };

describe("places on screen and in space", () => {
  beforeEach(() => {
    resetBench();
    setStage();
  });

  it("what is looked at lies in the middle, and what is right and up lies right and up", () => {
    expect(project([0, 0, 0])).toMatchObject({ ...MIDDLE, visible: true });
    const aside = project([5, 3, 0]);
    expect(aside.x).toBeGreaterThan(MIDDLE.x);
    expect(aside.y).toBeLessThan(MIDDLE.y);
  });

  it("what lies behind the camera or past the canvas is not visible", () => {
    expect(project([0, 0, 150]).visible).toBe(false);
    expect(project([400, 0, 0]).visible).toBe(false);
  });

  it("a pixel at a place covers what two places a pixel apart on screen are apart", () => {
    const size = pixelSize([0, 0, 0]);
    expect(project([size, 0, 0]).x - project([0, 0, 0]).x).toBeCloseTo(1, 6);
    expect(pixelSize([0, 0, 50])).toBeCloseTo(size / 2, 9);
  });

  it("a place on a plane comes back from where it is seen", () => {
    const p: [number, number, number] = [4, -7, 12];
    const seen = project(p);
    expect(onPlane(seen.x, seen.y, [0, 0, 12], [0, 0, 1])!.map((v) => v.toFixed(6))).toEqual(
      p.map((v) => v.toFixed(6)),
    );
    expect(onPlane(MIDDLE.x, MIDDLE.y, [0, 0, 0], [1, 0, 0])).toBeNull(); // looked along
  });

  it("a place along a line comes back from where it is seen, unless the line is looked along", () => {
    const seen = project([6, 2, 0]);
    expect(alongLine(seen.x, seen.y, [0, 2, 0], [1, 0, 0])).toBeCloseTo(6, 6);
    expect(alongLine(MIDDLE.x, MIDDLE.y, [0, 0, 0], [0, 0, 1])).toBeNull();
  });

  it("without a stage nothing is picked and nothing is seen", () => {
    stage.now = null;
    expect(pickScan(1, 1)).toBeNull();
    expect(pickBodies(1, 1)).toEqual([]);
    expect(project([0, 0, 0]).visible).toBe(false);
    expect(alongLine(1, 1, [0, 0, 0], [1, 0, 0])).toBeNull();
    expect(onPlane(1, 1, [0, 0, 0], [1, 0, 0])).toBeNull();
    expect(awayFromCamera([1, 2, 3])).toBe(0);
    expect(pixelSize([0, 0, 0])).toBe(1);
  });
});

describe("picking", () => {
  beforeEach(() => {
    resetBench();
    setStage();
  });

  it("takes the scan's facet under the pointer, and the place on it", () => {
    addScan(20, 10);
    const seen = project([4, 4, 10]);
    const hit = pickScan(seen.x, seen.y)!;
    expect(hit.point.map((v) => Math.round(v * 1e6) / 1e6)).toEqual([4, 4, 10]);
    expect([2, 3]).toContain(hit.facet); // of the upper right square
    expect(pickScan(project([30, 0, 10]).x, MIDDLE.y)).toBeNull();
  });

  it("of bodies behind each other the nearest is met first, with all the others asked for behind it", () => {
    addBlock("low", 20, [0, 0, -40]);
    addBlock("high", 10, [0, 0, 0]);
    const first = pickBodies(MIDDLE.x, MIDDLE.y);
    expect(first[0]).toMatchObject({ body: "high", key: "key-high", face: 4 });
    expect(first[0]!.point[2]).toBeCloseTo(5);
    expect(first[0]!.distance).toBeCloseTo(95);
    expect(awayFromCamera(first[0]!.point)).toBeCloseTo(95);
    const all = pickBodies(MIDDLE.x, MIDDLE.y, true);
    expect(all.map((h) => h.body)).toEqual(["high", "low"]);
  });

  it("beside the near body the far one is met", () => {
    addBlock("low", 40, [0, 0, -40]);
    addBlock("high", 10, [0, 0, 0]);
    const seen = project([14, 0, -20]);
    expect(pickBodies(seen.x, seen.y)[0]).toMatchObject({ body: "low", face: 4 });
  });

  it("what is cut away is not met: neither the scan nor the cover of the body", () => {
    addBlock("block", 20);
    addScan(20, 10);
    const across = { along: "z" as const, origin: [0, 0, 3] as [number, number, number], normal: [0, 0, 1] as [number, number, number] }; // biome-ignore format: one object
    useClip.getState().set({ ...across, offset: 0, flipped: false });
    expect(pickScan(MIDDLE.x, MIDDLE.y)).toBeNull();
    expect(pickBodies(MIDDLE.x, MIDDLE.y)).toEqual([]); // the cut itself is no face
    useClip.getState().change({ flipped: true }); // what lies below is cut away: the top is met again
    expect(pickBodies(MIDDLE.x, MIDDLE.y)[0]!.point[2]).toBeCloseTo(10);
    useClip.getState().change({ flipped: false, offset: 20 }); // above everything
    expect(pickScan(MIDDLE.x, MIDDLE.y)).not.toBeNull();
    useClip.getState().set(null);
    expect(pickBodies(MIDDLE.x, MIDDLE.y)[0]!.point[2]).toBeCloseTo(10);
  });
});

describe("where the view stands", () => {
  beforeEach(() => {
    resetBench();
    setStage();
  });
  const camera = () => stage.now!.camera;
  const target = () => stage.now!.controls!.target.toArray();

  it("shows all of a box, and remembers where it was", () => {
    fitView(new Box3(new Vector3(-10, -10, -10), new Vector3(30, 10, 10)));
    const sides = [[-10, -10, -10], [30, -10, -10], [-10, 10, -10], [-10, -10, 10], [30, 10, -10], [30, -10, 10], [-10, 10, 10], [30, 10, 10]] as const; // biome-ignore format: a table
    for (const [x, y, z] of sides) expect(project([x, y, z]).visible).toBe(true);
    expect(stage.now!.invalidate).toHaveBeenCalled();
    previousView();
    expect(target()).toEqual([0, 0, 0]);
    expect(camera().position.z).toBeCloseTo(100);
  });

  it("an empty box moves nothing", () => {
    fitView(new Box3());
    expect(camera().position.toArray()).toEqual([0, 0, 100]);
  });

  it("goes to a place and comes closer from the same side", () => {
    goTo([5, 6, 7]);
    expect(target()).toEqual([5, 6, 7]);
    expect(camera().position.toArray().map(Math.round)).toEqual([5, 6, 62]);
    expect(project([5, 6, 7])).toMatchObject({ visible: true });
  });

  it("faces a plane from its outer side, from as far as before", () => {
    faceOn([1, 2, 3], [1, 0, 0]);
    expect(
      camera()
        .position.toArray()
        .map((v) => Math.round(v)),
    ).toEqual([101, 2, 3]);
    lookFrom([0, -1, 0]);
    expect(
      camera()
        .position.toArray()
        .map((v) => Math.round(v)),
    ).toEqual([1, -98, 3]);
  });

  it("from straight above it stays a hair off the pole, so that up can be told", () => {
    faceOn([0, 0, 0], [0, 0, 5]);
    const { x, y, z } = camera().position;
    expect(z).toBeGreaterThan(99);
    expect(Math.hypot(x, y)).toBeGreaterThan(0.1);
  });

  it("flies to the outside of a place, seen aslant", () => {
    flyTo([0, 0, 10], [0, 1, 0], 40);
    const away = camera()
      .position.clone()
      .sub(new Vector3(0, 0, 10));
    expect(away.length()).toBeCloseTo(40, 6);
    expect(away.normalize().dot(new Vector3(0, 1, 0))).toBeGreaterThan(0.5);
    flyTo([0, 0, 0], [0, -0.9, -0.9], 40); // against the way it looks: still from outside
    expect(
      camera()
        .position.clone()
        .normalize()
        .dot(new Vector3(0, -0.7, -0.7)),
    ).toBeGreaterThan(0);
  });

  it("in parallel the place looked at keeps its size", () => {
    const before = pixelSize([0, 0, 0]);
    setParallel(true);
    expect(pixelSize([0, 0, 0])).toBeCloseTo(before, 6);
    const [near, far] = [pixelSize([0, 0, 40]), pixelSize([0, 0, -40])];
    expect(near / far).toBeGreaterThan(0.97); // nearer and farther look alike
    setParallel(false);
    expect(camera().position.z).toBeCloseTo(100, 6);
    expect(pixelSize([0, 0, 0])).toBeCloseTo(before, 6);
  });

  it("draws from before the part to behind it, however far the camera stands", () => {
    stage.radius = 30;
    setParallel(true);
    setDepth();
    const away = camera().position.distanceTo(stage.now!.controls!.target);
    expect(camera().near).toBeLessThan(away - 30);
    expect(camera().far).toBeGreaterThan(away + 30);
  });

  it("a turn about a pivot leaves the pivot where it is on screen", () => {
    const pivot = new Vector3(10, 5, 0);
    const before = project([10, 5, 0]);
    const turn = new Quaternion().setFromAxisAngle(new Vector3(0, 0, 1), 0.4);
    const { controls } = stage.now!;
    const was = camera().quaternion.clone();
    const shift = pivotShift(pivot, controls!.target, was, turn.clone().multiply(was));
    camera().position.applyQuaternion(turn).add(shift);
    controls!.target.add(shift);
    camera().quaternion.premultiply(turn);
    camera().updateMatrixWorld();
    const after = project([10, 5, 0]);
    expect(after.x).toBeCloseTo(before.x, 6);
    expect(after.y).toBeCloseTo(before.y, 6);
  });

  it("boxes hold what is seen, and no hidden scan", () => {
    addBlock("a", 10, [0, 0, 0]);
    addBlock("b", 10, [30, 0, 0]);
    const scan = addScan(200, 0);
    expect(bodiesBox().max.x).toBeCloseTo(35);
    expect(sceneBox().max.x).toBeCloseTo(100);
    scan.visible = false;
    expect(sceneBox().max.x).toBeCloseTo(35);
    expect(standBack(new Vector3(0, 0, 10), new Vector3(0, 0, 2), 2).toArray()).toEqual([0, 0, 18]);
  });
});
