import { expect, test } from "vitest";
import { plate } from "../test/plate";
import type { Fit } from "./drawing";
import { alikeKey, madeAlike, taken, WITHIN_PX, whiskers } from "./fit";

const size = { before: 40.4, value: 40.003, u: 0.004, held: "" };
const fit: Fit = {
  drawing: plate().drawing,
  sizes: [
    { ...size, name: "width", round: "40 mm" },
    { ...size, name: "height", round: null },
  ],
  alike: [],
  rms: 0.02,
  inside: 0.9,
  within: 0.1,
  places: 100,
  left_out: 3,
  worst: null,
  whiskers: [
    { at: [0, 0], to: [0, 0.1], off: 0.1 },
    { at: [10, 0], to: [10, -0.3], off: -0.3 },
    { at: [20, 0], to: [20, 0.025], off: 0.025 },
  ],
  alone: [],
};

test("round values that were chosen stand in the place of fitted ones, and say what they were", () => {
  expect(taken(fit, ["width"]).lengths!.width).toEqual({
    text: "40 mm",
    mark: "intent",
    note: "rounded from the fitted 40.003 mm",
  });
  expect(taken(fit, ["height"])).toEqual(fit.drawing);
});

test("a whisker that is off by what is accepted is as long as is said, however near one looks", () => {
  for (const zoom of [2, 20]) {
    const [first, second, third] = whiskers(fit, { a: zoom, b: 0, c: 0, d: -zoom, e: 5, f: 5 });
    expect(Math.hypot(first!.to[0] - first!.from[0], first!.to[1] - first!.from[1])).toBeCloseTo(WITHIN_PX);
    expect(first).toMatchObject({ above: true, outside: false, share: 1 });
    expect(second!.to[1] - second!.from[1]).toBeCloseTo(3 * WITHIN_PX);
    expect(second).toMatchObject({ above: false, outside: true, share: 1 });
    expect(third!.share).toBeCloseTo(0.25);
  }
});

test("what is to be one is asked for, and its second size only reads", () => {
  const alike: Fit["alike"] = [
    { kind: "equal", of: ["c1", "c2"], off: 0.004, u: 0.006, twice: ["d:3"] },
    { kind: "symmetric", of: ["c1", "c2", "l9"], off: 0.01, u: 0.01, twice: [] },
  ];
  expect(madeAlike({ ...fit, alike }, [])).toEqual([]);
  expect(madeAlike({ ...fit, alike }, alike.map(alikeKey))).toEqual([
    { act: "change-size", demand: "d:3", value: null, reference: true, name: null },
    { act: "relate", kind: "equal", of: ["c1", "c2"], value: null },
    { act: "relate", kind: "symmetric", of: ["c1", "c2", "l9"], value: null },
  ]);
});
