import { describe, expect, it } from "vitest";
import { defectMeans, defectTitle, mendOf } from "./defects";

const KINDS = [
  "hole",
  "non-manifold-edge",
  "non-manifold-vertex",
  "duplicate",
  "degenerate",
  "flipped",
  "island",
  "spike",
  "fold",
  "piercing",
  "sliver",
];

describe("defects in words", () => {
  it("count in one and many", () => {
    expect(defectTitle("hole", 1)).toBe("1 hole");
    expect(defectTitle("hole", 1200)).toBe("1,200 holes");
  });
  it("say what each of them means", () => {
    for (const k of KINDS) expect(defectMeans(k).length).toBeGreaterThan(10);
  });
});

describe("the mend of a defect", () => {
  it("fills one hole by facets at its rim, or all", () => {
    const place = {
      point: [0, 0, 0] as [number, number, number],
      size: 1,
      normal: [0, 0, 1] as [number, number, number],
      facets: [1],
      source: [7, 8],
      left: false,
    };
    expect(mendOf("hole", "s", place)?.params).toEqual({ scan: { id: "s" }, which: "picked", rims: [7, 8] });
    expect(mendOf("hole", "s")?.params.which).toBe("all");
  });
  it("cuts out only what was asked for", () => {
    expect(mendOf("fold", "s")?.params).toMatchObject({ spikes: false, folds: true, piercings: false });
  });
  it("does not exist for what is harmless", () => {
    expect(mendOf("sliver", "s")).toBeNull();
    expect(mendOf("duplicate", "s")).toBeNull();
  });
});
