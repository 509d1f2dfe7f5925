import { describe, expect, it } from "vitest";
import type { StepFacts } from "../api/build";
import { kindView } from "../steps/kindViews";
import { curvesOf } from "./places";

const facts = {
  of: "curve",
  mark: null,
  marks: {},
  points: 3,
  pieces: 1,
  length: 42.5,
  tightest: 7.25,
  drawn: [
    [0, 0, 0],
    [1, 2, 3],
    [4, 4, 4],
  ],
} as unknown as StepFacts;

describe("a curve through points", () => {
  it("is drawn through the places that it tells, also while it is being prepared", () => {
    const rows = [
      { id: "c", name: "Lead", facts, passing: false },
      { id: "d", name: "", facts, passing: true },
      { id: "x", name: "Nothing", facts: null, passing: false },
    ];
    const found = curvesOf(rows);
    expect(found.map((c) => [c.id, c.passing])).toEqual([
      ["c", false],
      ["d", true],
    ]);
    expect(found[0]!.line).toHaveLength(3);
  });

  it("tells its length and its tightest bend, and waits for two points", () => {
    const view = kindView("curve");
    expect(view.rows!(facts, "mm")).toEqual([
      ["Along it", "42.50 mm"],
      ["Tightest bend", "7.25 mm"],
    ]);
    const sharp = { ...facts, tightest: null } as unknown as StepFacts;
    expect(view.rows!(sharp, "mm")).toHaveLength(1);
    expect(view.waits!({ points: [{ id: "a" }] })).toMatch(/two points/);
    expect(view.waits!({ points: [{ id: "a" }, { id: "b" }] })).toBe(false);
    expect(view.instead!({ points: [{ id: "a" }, { id: "b" }] }, undefined as never)).toBe("through 2 points");
  });
});
