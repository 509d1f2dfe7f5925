import { describe, expect, it } from "vitest";
import type { Vec3 } from "../api/build";
import { nearestSpot, piecesOf, type Sight, type Spot, spotsOf } from "./spots";
import type { EdgeFacts } from "./useBorders";

const edge = (part: Partial<EdgeFacts>): EdgeFacts => ({
  name: "a|b",
  label: "",
  kind: "line",
  faces: [0, 1],
  ends: [],
  length: 10,
  smooth: false,
  border: false,
  next: [],
  centre: [5, 0, 0],
  ...part,
});
const corner = (name: string, x: number) => ({ name, label: name, centre: [x, 0, 0] as Vec3 });
const round = { kind: "circle", origin: [0, 0, 9] as Vec3, radius: 6 };

describe("spots of a body", () => {
  const borders = {
    corners: [corner("a", 100), corner("c?", 103), corner("", 103)],
    edges: [
      edge({}),
      edge({ name: "c|d", ...round, centre: [6, 0, 9] }),
      edge({ name: "d|e", ...round, centre: [-6, 0, 9] }), // the other half of the same circle
      edge({ name: "s|t", smooth: true, centre: [7, 7, 7] }),
      edge({ name: "", centre: [8, 8, 8] }),
      edge({ name: "k|l", kind: "curve", centre: [1, 1, 1] }),
    ],
  };

  it("are named corners, centres once each, middles of straight sharp edges", () => {
    const all = spotsOf("x", borders, ["corner", "centre", "middle"], "mm");
    expect(all.map((s) => [s.mark, s.said])).toEqual([
      ["corner", "corner"],
      ["middle", "middle of 10.00 mm"],
      ["centre", "centre, Ø 12.00 mm"],
    ]);
    expect(all[0]!.ref).toEqual({ body: "x", vertex: "a", place: [100, 0, 0] });
    expect(all[2]!.ref).toMatchObject({ body: "x", edge: "c|d", kind: "circle" });
    expect(all[2]!.at).toEqual([0, 0, 9]);
  });

  it("only those that are wanted", () => {
    expect(spotsOf("x", borders, ["corner"], "mm").map((s) => s.mark)).toEqual(["corner"]);
    expect(spotsOf("x", borders, [], "mm")).toEqual([]);
  });
});

describe("the spot under the pointer", () => {
  const spot = (key: string, x: number, z = 0, mark: Spot["mark"] = "corner"): Spot => ({
    key,
    mark,
    at: [x, 0, z],
    said: key,
    ref: { body: "b", vertex: key, place: [x, 0, z] },
  });
  // Seen from z = 10 downwards, with a wall at z = 0.
  const sight: Sight = {
    project: ([x, y]) => ({ x, y, visible: x < 500 }),
    away: ([, , z]) => 10 - z,
    front: () => 10,
  };

  it("is the nearest that is seen and near enough", () => {
    const all = [spot("a", 100), spot("b", 104), spot("far", 600)];
    expect(nearestSpot(103, 0, all, sight)?.key).toBe("b");
    expect(nearestSpot(130, 0, all, sight)).toBeNull();
    expect(nearestSpot(600, 0, all, sight)).toBeNull();
  });

  it("is what is seen before what is hidden, though that be nearer; a centre hangs in the air and is never hidden", () => {
    const hidden = spot("under", 103, -5);
    expect(nearestSpot(103, 0, [hidden, spot("top", 108)], sight)?.key).toBe("top");
    expect(nearestSpot(103, 0, [hidden], sight)?.key).toBe("under");
    expect(nearestSpot(103, 0, [spot("bore", 103, -5, "centre"), spot("top", 108)], sight)?.key).toBe("bore");
  });
});

describe("pieces of a sketch", () => {
  it("say what they are, and where", () => {
    const path: Vec3[] = [
      [0, 0, 0],
      [1, 0, 0],
      [2, 0, 0],
    ];
    const [line, free] = piecesOf("s", "Foot", [
      { id: "e1", kind: "line", path },
      { id: "e2", kind: "free", path: [] },
    ]);
    expect(line).toMatchObject({ said: "line of Foot", ref: { sketch: "s", entity: "e1", place: [1, 0, 0] } });
    expect(free).toMatchObject({ said: "curve of Foot", ref: { place: null } });
  });
});
