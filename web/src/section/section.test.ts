import { describe, expect, it } from "vitest";
import type { Vec3 } from "../api/build";
import { centreOf, edited, type TakenLoop } from "./pieces";
import { cutTriangles, frameOf, turned, uAxisOf } from "./plane";

const line = (id: string, a: [number, number], b: [number, number]) => ({ id, kind: "line" as const, start: a, end: b, mid: null, points: [], taken: true, assumed: false }); // biome-ignore format: one object
const square = (): TakenLoop[] => [
  {
    name: "",
    closed: true,
    full: false,
    bridged: false,
    relations: [],
    pieces: [
      line("e1", [0, 0], [4, 0]),
      line("e2", [4, 0], [4, 4]),
      line("e3", [4, 4], [0, 4]),
      line("e4", [0, 4], [0, 0]),
    ],
  },
];

describe("a section plane", () => {
  it("is turned about its own axes, by the angle that is typed", () => {
    const n: Vec3 = [0, 0, 1];
    expect(uAxisOf(n)).toEqual([1, 0, 0]);
    const t = turned(n, 30, 0).normal;
    expect(t[2]).toBeCloseTo(Math.cos(Math.PI / 6));
    expect(t[1]).toBeCloseTo(-0.5);
    expect(turned(n, 0, 90).normal[0]).toBeCloseTo(1);
  });

  it("cuts a body's triangles where they cross it", () => {
    const cut = cutTriangles([0, 0, -1, 2, 0, 1, 0, 2, 1], [0, 1, 2], [0, 0, 0], [0, 0, 1]);
    expect([...cut]).toEqual([1, 0, 0, 0, 1, 0]);
    expect(cutTriangles([0, 0, 1, 2, 0, 1, 0, 2, 1], [0, 1, 2], [0, 0, 0], [0, 0, 1])).toHaveLength(0);
  });
});

describe("pieces changed by hand", () => {
  it("become another kind through their own middle", () => {
    const [loop] = edited(square(), 0, 0, "arc");
    expect(loop!.pieces[0]!.kind).toBe("arc");
    expect(loop!.pieces[0]!.mid![0]).toBeCloseTo(2);
    expect(loop!.pieces[0]!.mid![1]).not.toBe(0);
    expect(edited([loop!], 0, 0, "line")[0]!.pieces[0]!.mid).toBeNull();
  });

  it("are parted in the middle and joined again, ids in order", () => {
    const parted = edited(square(), 0, 1, "part");
    expect(parted[0]!.pieces.map((p) => p.id)).toEqual(["e1", "e2", "e3", "e4", "e5"]);
    expect(parted[0]!.pieces[1]!.end).toEqual([4, 2]);
    const again = edited(parted, 0, 1, "join");
    expect(again[0]!.pieces).toHaveLength(4);
    expect(again[0]!.pieces[1]).toMatchObject({ kind: "line", start: [4, 0], end: [4, 4] });
    // The last of a closed loop joins the first.
    expect(edited(square(), 0, 3, "join")[0]!.pieces).toHaveLength(3);
  });

  it("close a part of a circle to a full one", () => {
    const arc = { id: "e1", kind: "arc" as const, start: [5, 0] as [number, number], end: [0, 5] as [number, number], mid: [5 * Math.SQRT1_2, 5 * Math.SQRT1_2] as [number, number], points: [], taken: true, assumed: false }; // biome-ignore format: one object
    expect(centreOf(arc.start, arc.mid, arc.end)![0]).toBeCloseTo(0);
    const [loop] = edited(
      [{ name: "", closed: false, full: false, bridged: false, relations: [], pieces: [arc] }],
      0,
      0,
      "full",
    );
    expect(loop).toMatchObject({ closed: true, full: true });
    expect(loop!.pieces[0]!.end).toEqual([5, 0]);
    expect(loop!.pieces[0]!.mid![0]).toBeCloseTo(-5);
  });

  it("become an ellipse along their own path, and close all the way round about its middle", () => {
    const arc = { id: "e1", kind: "arc" as const, start: [5, 0] as [number, number], end: [-5, 0] as [number, number], mid: [0, 5] as [number, number], points: [], taken: true, assumed: false }; // biome-ignore format: one object
    const open = [{ name: "", closed: false, full: false, bridged: false, relations: [], pieces: [arc] }];
    const made = edited(open, 0, 0, "ellipse")[0]!.pieces[0]!;
    expect(made).toMatchObject({ kind: "ellipse", mid: null, ellipse: null });
    expect(made.points).toHaveLength(17);
    for (const [x, y] of made.points) expect(Math.hypot(x, y)).toBeCloseTo(5);
    expect(made.points[8]![1]).toBeCloseTo(5);
    // As the server answers it: fitted, then closed.
    const fitted = { ...made, mid: [0, 3] as [number, number], points: [], ellipse: [0, 0, 5, 3, 0] as [number, number, number, number, number] }; // biome-ignore format: one object
    const [loop] = edited([{ ...open[0]!, pieces: [fitted] }], 0, 0, "full");
    expect(loop).toMatchObject({ closed: true, full: true });
    expect(loop!.pieces[0]!.end).toEqual([5, 0]);
    expect(loop!.pieces[0]!.mid).toEqual([-5, 0]);
    expect(edited([{ ...open[0]!, pieces: [fitted] }], 0, 0, "line")[0]!.pieces[0]!.ellipse).toBeNull();
  });

  it("let go of what was held to them from other loops, and keep what was not", () => {
    const hole = (id: string) => ({ name: "", closed: true, full: false, bridged: false, relations: [], pieces: [{ id, kind: "arc" as const, start: [1, 0] as [number, number], end: [1, 0] as [number, number], mid: [-1, 0] as [number, number], points: [], taken: true, assumed: false }] }); // biome-ignore format: one object
    const loops = [...square(), hole("e5"), hole("e6"), hole("e7")];
    loops[2] = { ...loops[2]!, relations: [{ kind: "equal radius", first: "e6", second: "e7" }] };
    loops[3] = { ...loops[3]!, relations: [{ kind: "concentric", first: "e7", second: "e5" }] };
    const after = edited(loops, 0, 0, "part");
    expect(after[2]!.relations).toEqual([{ kind: "equal radius", first: "e7", second: "e8" }]);
    expect(after[3]!.relations).toEqual([{ kind: "concentric", first: "e8", second: "e6" }]);
    expect(edited(loops, 1, 0, "free")[3]!.relations).toEqual([]);
  });
});

describe("the frame of a section plane", () => {
  it("is as large as what the plane cuts, about its middle, wherever the plane's origin lies", () => {
    const cut = [10, 20, 5, 50, 20, 5, 50, 40, 5, 10, 40, 5];
    const frame = frameOf(cut, [0, 0, 5], [1, 0, 0], [0, 1, 0])!;
    expect(frame.middle).toEqual([30, 30, 5]);
    expect(frame.reach).toBeCloseTo(0.56 * 40);
    expect(frameOf(cut, [500, -90, 5], [0, 1, 0], [-1, 0, 0])!.middle).toEqual([30, 30, 5]);
  });
  it("is none where nothing is cut", () => {
    expect(frameOf([], [0, 0, 0], [1, 0, 0], [0, 1, 0])).toBeNull();
  });
});
