import { describe, expect, it } from "vitest";
import { inversePose, placedPoint, rawPoint, STILL, timesPose } from "./pose";

/** A quarter turn about z, then a shift. */
const POSE = [
  [0, -1, 0, 10],
  [1, 0, 0, 20],
  [0, 0, 1, 30],
  [0, 0, 0, 1],
];

describe("poses", () => {
  it("turn, then shift", () => {
    expect(placedPoint(POSE, [1, 2, 3])).toEqual([8, 21, 33]);
    expect(placedPoint(STILL, [1, 2, 3])).toEqual([1, 2, 3]);
  });
  it("lead back to where a point came from", () => {
    expect(rawPoint(POSE, [8, 21, 33])).toEqual([1, 2, 3]);
    expect(placedPoint(inversePose(POSE), [8, 21, 33])).toEqual([1, 2, 3]);
  });
  it("follow each other: the right one comes first", () => {
    const twice = timesPose(POSE, POSE);
    expect(placedPoint(twice, [1, 2, 3])).toEqual(placedPoint(POSE, placedPoint(POSE, [1, 2, 3])));
    expect(timesPose(POSE, inversePose(POSE))).toEqual(STILL);
  });
});
