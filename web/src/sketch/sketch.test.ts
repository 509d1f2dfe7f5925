import { describe, expect, it, vi } from "vitest";
import { plate, point } from "../test/plate";
import { inBox } from "./box";
import { copied, pasted } from "./clipboard";
import {
  assumedIn,
  endsOf,
  footOn,
  frameOf,
  inSpace,
  type Kept,
  middleOf,
  mmPerPixel,
  onSheet,
  pointsOf,
  toPlane,
  toScreen,
} from "./drawing";
import { circleThrough, ghostOf, tangentArc } from "./ghost";
import { placeOf, sizePlaces } from "./places";
import { relationOf, sidesOf, sizesOf, supplementOf } from "./relations";
import { entityNear, regionAt, snapped } from "./snap";
import { useHand } from "./store";
import { inTurn, place } from "./stroke";
import { TOOLS, toolOf } from "./tools";
import { tornOf } from "./torn";

const ALL = { points: true, middles: true, curves: true, evidence: true, directions: true, grid: null };
const NOTHING = { paths: [], ends: [] };
const SHEET = { a: 5, b: 0, c: 0, d: -5, e: 100, f: 300 };

describe("the plane on the screen", () => {
  it("goes there and back", () => {
    expect(toScreen(SHEET, [10, 20])).toEqual([150, 200]);
    expect(toPlane(SHEET, [150, 200])).toEqual([10, 20]);
    expect(toPlane({ ...SHEET, d: 0 }, [1, 1])).toBeNull();
    expect(mmPerPixel(SHEET)).toBeCloseTo(0.2);
  });
  it("lies in space along its axes", () => {
    const f = frameOf([1, 2, 3], [0, 1, 0], [1, 0, 0]);
    expect(inSpace(f, [4, 5])).toEqual([1, 6, 8]);
    expect(onSheet(f, [1, 6, 8])).toEqual([4, 5]);
  });
  it("knows what entities are drawn by", () => {
    const { drawing } = plate();
    expect(pointsOf(drawing, "c1")).toEqual(["p5"]);
    expect(endsOf(drawing, "l2")).toEqual(["p2", "p3"]);
    expect(endsOf(drawing, "c1")).toEqual([]);
    expect(
      middleOf([
        [0, 0],
        [10, 0],
        [10, 30],
      ]),
    ).toEqual([10, 10]);
    expect(
      footOn(
        [
          [0, 0],
          [10, 0],
        ],
        [4, 3],
      ),
    ).toEqual({ at: [4, 0], off: 3 });
  });
});

describe("pieces over gaps of the scan", () => {
  const piece = (id: string, more: object) => ({ id, kind: "line", start: [0, 0], end: [1, 0], points: [], ...more });
  it("are those that are drawn, taken and assumed", () => {
    const pieces = [
      piece("l1", { taken: true, assumed: true }),
      piece("l2", { taken: true, assumed: false }),
      piece("l3", { taken: false, assumed: true }),
      piece("gone", { taken: true, assumed: true }),
    ];
    const kept = { ...plate().drawing, taken: [{ closed: true, pieces }] } as unknown as Kept;
    expect([...assumedIn(kept)]).toEqual(["l1"]);
    expect(assumedIn(plate().drawing).size).toBe(0);
  });
});

describe("the clipboard", () => {
  it("takes entities with their points and what is asked within them", () => {
    const text = copied(plate().drawing, ["l1", "l3"])!;
    const act = pasted(text, [1, 2])!;
    expect(Object.keys(act.entities).sort()).toEqual(["l1", "l3", "p1", "p2", "p3", "p4"]);
    expect(act.constraints).toHaveLength(2);
    expect(act.sizes).toEqual([expect.objectContaining({ name: "width", value: "40 mm" })]);
    expect(act.by).toEqual([1, 2]);
  });
  it("leaves any other text alone", () => {
    expect(copied(plate().drawing, ["d:0"])).toBeNull();
    for (const text of ["", "hello", "{}", '{"contour-drawing": 2, "entities": {}}'])
      expect(pasted(text, [0, 0])).toBeNull();
  });
});

describe("snaps", () => {
  const at = (x: number, y: number, more = {}) =>
    snapped({ pointer: [x, y], within: 1, shown: plate(), under: NOTHING, snaps: ALL, ...more });
  it("takes points before middles before curves", () => {
    expect(at(39.6, 0.3)).toMatchObject({ at: [40, 0], point: "p2", said: "end" });
    expect(at(20.4, 10.2)).toMatchObject({ point: "p5", said: "centre" });
    expect(at(20.3, 0.2)).toMatchObject({ at: [20, 0], middle: "l1" });
    expect(at(10, 0.5)).toMatchObject({ at: [10, 0], on: ["l1"] });
    expect(at(10, 5)).toEqual({ at: [10, 5], said: "" });
  });
  it("is level with where one came from, unless that is off", () => {
    expect(at(60, 5.4, { from: [50, 5] })).toMatchObject({
      at: [60, 5],
      relation: { kind: "horizontal" },
      said: "level",
    });
    expect(at(50.3, 30, { from: [50, 5] })).toMatchObject({ relation: { kind: "vertical" } });
    expect(at(60, 5.4, { from: [50, 5], snaps: { ...ALL, directions: false } }).relation).toBeUndefined();
  });
  it("offers what nearly holds with lines and circles that are there", () => {
    const askew = plate();
    const entities = { ...askew.drawing.entities, p2: point(40, 8), p9: point(60, 10) };
    const shown = { ...askew, drawing: { ...askew.drawing, entities }, paths: {} };
    const to = (x: number, y: number, more = {}) =>
      snapped({ pointer: [x, y], within: 1, shown, under: NOTHING, snaps: ALL, from: [50, 40], ...more });
    const along = to(70, 44.5);
    expect(along).toMatchObject({ said: "parallel to l1", relation: { kind: "parallel", to: "l1" } });
    expect((along.at[1] - 40) / (along.at[0] - 50)).toBeCloseTo(8 / 40);
    expect(to(54.5, 20)).toMatchObject({ relation: { kind: "perpendicular", to: "l1" } });
    const touch = to(20.6, 6.4, { from: [60, 10] });
    expect(touch).toMatchObject({ relation: { kind: "tangent", to: "c1" }, on: ["c1"] });
    expect(Math.hypot(touch.at[0] - 20, touch.at[1] - 10)).toBeCloseTo(4);
    // The radius to the place is square to the line.
    expect((touch.at[0] - 20) * (60 - touch.at[0]) + (touch.at[1] - 10) * (10 - touch.at[1])).toBeCloseTo(0);
  });
  it("holds to the evidence, its ends first, and to a grid where there is one", () => {
    const under = {
      paths: [
        [
          [50, 0],
          [90, 0],
        ] as [number, number][],
      ],
      ends: [[50, 0] as [number, number]],
    };
    expect(at(50.4, 0.3, { under })).toMatchObject({ at: [50, 0], said: "end of a section piece" });
    expect(at(70, 0.6, { under })).toMatchObject({ at: [70, 0], said: "on the section" });
    expect(at(71.3, 8.8, { snaps: { ...ALL, grid: 5 } })).toMatchObject({ at: [70, 10], said: "grid" });
  });
  it("finds what is under the pointer, and the innermost region", () => {
    expect(entityNear(plate(), [24.2, 10], 1)).toBe("c1");
    expect(entityNear(plate(), [10, 10], 1)).toBeNull();
    expect(regionAt(plate(), [10, 10])).toBe("p-l1");
    expect(regionAt(plate(), [21, 11])).toBe("p-c1");
    expect(regionAt(plate(), [100, 11])).toBeNull();
  });
});

describe("what can be held", () => {
  const { drawing } = plate();
  it("is offered in the order that the server takes", () => {
    expect(relationOf(drawing, ["c1", "p1"], "on-curve")).toEqual(["p1", "c1"]);
    expect(relationOf(drawing, ["l1", "p5"], "midpoint")).toEqual(["p5", "l1"]);
    expect(relationOf(drawing, ["p1", "p2", "p5"], "midpoint")).toEqual(["p5", "p1", "p2"]);
    expect(relationOf(drawing, ["l1", "l2"], "perpendicular")).toEqual(["l1", "l2"]);
    expect(relationOf(drawing, ["l1", "c1"], "tangent")).toEqual(["l1", "c1"]);
  });
  it("is not offered where it makes no sense", () => {
    expect(relationOf(drawing, ["l1", "l2"], "tangent")).toBeNull();
    expect(relationOf(drawing, ["l1", "c1"], "equal")).toBeNull();
    expect(relationOf(drawing, ["p1"], "coincident")).toBeNull();
    expect(relationOf(drawing, [], "fixed")).toBeNull();
  });
  it("has the sizes that fit, the likeliest first", () => {
    expect(sizesOf(drawing, ["l1"])[0]!.kind).toBe("length");
    expect(sizesOf(drawing, ["c1"])[0]!.kind).toBe("diameter");
    expect(sizesOf(drawing, ["l1", "l2"])[0]!.kind).toBe("angle");
    expect(sizesOf(drawing, ["l1", "l3"])[0]!.kind).toBe("distance");
    expect(sizesOf(drawing, ["l1", "p3"])[0]).toEqual({ kind: "distance", of: ["p3", "l1"] });
    expect(sizesOf(drawing, ["p1"])).toEqual([]);
  });
  it("means the angle inside a corner", () => {
    expect(supplementOf(drawing, "l1", "l2")).toBe(true);
    expect(supplementOf(drawing, "l1", "l3")).toBe(false);
  });
});

describe("what a shape would look like", () => {
  it("is round where it will be round", () => {
    expect(circleThrough([5, 0], [0, 5], [-5, 0])).toEqual({ m: [0, 0], r: 5 });
    expect(circleThrough([0, 0], [1, 0], [2, 0])).toBeNull();
    const arc = ghostOf("arc", "three", [
      [5, 0],
      [-5, 0],
      [0, 5],
    ]);
    expect(Math.max(...arc.map((p) => p[1]))).toBeCloseTo(5, 1);
    expect(Math.min(...arc.map((p) => p[1]))).toBeCloseTo(0, 6);
    expect(
      ghostOf("slot", "straight", [
        [0, 0],
        [10, 0],
        [5, 2],
      ]).every((p) => Math.abs(p[1]) <= 2.001),
    ).toBe(true);
    expect(
      ghostOf(
        "polygon",
        "corner",
        [
          [0, 0],
          [1, 0],
        ],
        6,
      ),
    ).toHaveLength(7);
  });
  it("leaves the line before as that arrives", () => {
    const path = tangentArc([0, 0], [1, 0], [10, 10]);
    expect(path[1]![1] / path[1]![0]).toBeLessThan(0.05);
    expect(path.at(-1)![0]).toBeCloseTo(10);
  });
  it("has a picture for every way of every tool that draws", () => {
    const places: [number, number][] = [
      [0, 0],
      [10, 0],
      [9, 4],
      [13, 0],
    ];
    for (const t of TOOLS.filter((tool) => tool.group === "draw" && tool.id !== "point"))
      for (const w of t.ways) expect(ghostOf(t.id, w.id, places).length, `${t.id} ${w.id}`).toBeGreaterThan(1);
  });
});

describe("contradictions", () => {
  it("are shown on the demands and on what they speak of", () => {
    const torn = tornOf(plate({ conflicts: [["c:1", "d:0"]] }));
    expect([...torn].sort()).toEqual(["c:1", "d:0", "l1", "l3"]);
  });
});

describe("chips and sizes", () => {
  it("stand beside what they speak of, apart from one another", () => {
    const [x, y] = placeOf(plate(), SHEET, ["l1"], 0);
    expect([x, y]).toEqual([200, 280]);
    expect(placeOf(plate(), SHEET, ["l1"], 1)).toEqual([200, 300]);
    expect(placeOf(plate(), SHEET, ["gone"], 0)).toEqual([0, 0]);
  });
});

describe("the pencil", () => {
  const spot = (x: number, y: number) => ({ at: [x, y] as [number, number], said: "" });
  it("goes on from the line before, and stops where the outline closes", async () => {
    useHand.getState().take("draw", "line", "chain");
    const open = plate({ chosen: ["p1", "p2", "l1"] });
    const act = vi.fn().mockResolvedValue(open);
    await place(spot(0, 0), () => open, act);
    expect(act).not.toHaveBeenCalled();
    await place(spot(40, 0), () => open, act);
    expect(act.mock.calls[0]![0][0]).toMatchObject({ act: "line", after: null });
    expect(useHand.getState()).toMatchObject({ after: "l1", chain: "p1" });
    expect(useHand.getState().spots[0]).toMatchObject({ point: "p2" });
    act.mockResolvedValue(plate({ chosen: ["l4"] }));
    useHand.getState().set({ spots: [{ ...spot(0, 20), point: "p4" }] });
    await place({ ...spot(0, 0), point: "p1" }, () => open, act);
    expect(useHand.getState()).toMatchObject({ spots: [], after: null, chain: null });
  });
  it("does one thing after the other, however fast it is pointed", async () => {
    const order: string[] = [];
    const slow = inTurn(async () => {
      await new Promise((r) => setTimeout(r, 5));
      order.push("first");
    });
    await Promise.all([slow, inTurn(async () => void order.push("second"))]);
    expect(order).toEqual(["first", "second"]);
  });
  it("keeps nothing of what was refused", async () => {
    useHand.getState().take("draw", "rectangle", "corner");
    const act = vi.fn().mockResolvedValue(null);
    await place(spot(0, 0), () => plate(), act);
    await place(spot(1, 0), () => plate(), act);
    expect(useHand.getState()).toMatchObject({ tool: "rectangle", spots: [] });
  });
  it("makes acts that name what they change", () => {
    const given = {
      spots: [{ ...spot(3, 0), on: ["l1"] }],
      way: "pick",
      typed: {},
      after: null,
      bend: false,
      chosen: ["l1"],
      shown: plate(),
    };
    expect(toolOf("trim")!.acts(given)).toEqual([{ act: "trim", entity: "l1", at: [3, 0] }]);
    expect(toolOf("set-off")!.acts({ ...given, spots: [] })).toEqual([{ act: "set-off", of: ["l1"], distance: "2" }]);
    const move = toolOf("move")!.acts({ ...given, way: "copy", spots: [spot(0, 0), spot(5, 2)] });
    expect(move[0]).toMatchObject({ act: "move", by: [5, 2], copy: true, turn: null });
    const ring = toolOf("repeat")!.acts({ ...given, way: "ring", typed: { count: "5" }, spots: [spot(0, 0)] });
    expect(ring[0]).toMatchObject({ act: "ring", count: 5, over: null });
  });
});

describe("a box", () => {
  it("takes what lies wholly in it, points where there is nothing else, and whole profiles", () => {
    const shown = plate();
    expect(inBox(shown, [-1, -1], [41, 0.5])).toEqual({ entities: ["l1"], profiles: [] });
    expect(inBox(shown, [41, 0.5], [-1, -1]).entities).toEqual(["l1"]);
    expect(inBox(shown, [39, 19], [41, 21]).entities).toEqual(["p3"]);
    const all = inBox(shown, [-1, -1], [50, 30]);
    expect(all.entities).toHaveLength(5);
    expect(all.profiles).toEqual(shown.regions.map((r) => r.name));
  });
});

describe("the side of a size that gives way", () => {
  it("is between two things, or the ends of a line", () => {
    const kept = plate().drawing;
    expect(sidesOf(kept, ["l1"])).toEqual(["p1", "p2"]);
    expect(sidesOf(kept, ["p1", "l3"])).toEqual(["p1", "l3"]);
    expect(sidesOf(kept, ["c1"])).toBeNull();
  });
});

describe("sizes on the drawing", () => {
  it("give way to one another, those of what is chosen last", () => {
    const base = plate();
    const sizes = ["l1", "l1", "l2", "c1"].map((of, k) => ({ ...base.drawing.sizes![0]!, of: [of], name: `d${k}` }));
    const shown = { ...base, drawing: { ...base.drawing, sizes } };
    const near = { a: 8, b: 0, c: 0, d: -8, e: 0, f: 0 };
    expect([...sizePlaces(shown, near, []).keys()].sort()).toEqual([0, 1, 2, 3]);
    const far = { a: 0.8, b: 0, c: 0, d: -0.8, e: 0, f: 0 };
    expect([...sizePlaces(shown, far, []).keys()]).toContain(0);
    expect([...sizePlaces(shown, far, []).keys()].length).toBeLessThan(4);
    expect([...sizePlaces(shown, far, ["c1"]).keys()][0]).toBe(3);
  });
});
