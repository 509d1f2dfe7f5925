import { describe, expect, it } from "vitest";
import type { Vec3 } from "../api/build";
import { angleAt, arcPoints, turnedBy } from "./arc";

const [X, Y, Z]: [Vec3, Vec3, Vec3] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

describe("angles about an axis", () => {
  it("turn the way the axis says", () => {
    const at = turnedBy(X, Z, 90);
    for (const i of [0, 1, 2]) expect(at[i]).toBeCloseTo(Y[i]!);
    expect(turnedBy(X, [0, 0, -1], 90)[1]).toBeCloseTo(-1);
  });

  it("are told from a place, the whole turn that is nearest to where it stood", () => {
    expect(angleAt([0, 5, 0], X, Z, 80)).toBeCloseTo(90);
    expect(angleAt([0, -5, 0], X, Z, 250)).toBeCloseTo(270);
    expect(angleAt([0, -5, 0], X, Z, 0)).toBeCloseTo(-90);
    expect(angleAt(turnedBy(X, Z, 37), X, Z, 700)).toBeCloseTo(757);
  });

  it("are drawn as an arc from nothing, close enough to be round", () => {
    const arc = arcPoints(X, Z, 90);
    expect(arc).toHaveLength(19);
    expect(arc[0]).toEqual([1, 0, 0]);
    for (const p of arc) expect(Math.hypot(...p)).toBeCloseTo(1);
    expect(arcPoints(X, Z, 0)).toHaveLength(2);
  });
});
