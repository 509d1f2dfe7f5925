import { describe, expect, it } from "vitest";
import { stillBelow } from "../steps/RegionForm";
import { light } from "../theme";
import { bandOf, bands, colourise } from "./deviation";

describe("deviation colours", () => {
  const all = bands(light);
  it("is neutral exactly within the acceptance", () => {
    expect(bandOf(all, 0.099, 0.1).colour).toBe(light.inside);
    expect(bandOf(all, -0.1, 0.1).colour).toBe(light.inside);
    expect(bandOf(all, 0.1001, 0.1).colour).not.toBe(light.inside);
  });
  it("goes to teal below and amber above", () => {
    expect(bandOf(all, -5, 0.1).colour).toBe(light.below);
    expect(bandOf(all, 5, 0.1).colour).toBe(light.above);
  });
  it("colours every vertex", () => {
    const rgb = colourise(new Float32Array([0, -9]), 0.1, light);
    expect([...rgb.slice(0, 3)]).toEqual([186, 175, 154]);
    expect([...rgb.slice(3)]).toEqual([1, 45, 55]);
  });
  it("covers the line without gaps", () => {
    for (let i = 1; i < all.length; i++) expect(all[i]!.from).toBe(all[i - 1]!.to);
  });
});

describe("what a region's colours take for nothing", () => {
  it("is a quarter of what nearly all of it stays within, whatever its rim does", () => {
    const values = Float32Array.from({ length: 100 }, (_, k) => (k < 3 ? 2 : (k % 2 ? 1 : -1) * 0.04));
    expect(stillBelow(values)).toBeCloseTo(0.01, 6);
    expect(stillBelow(new Float32Array(0))).toBeGreaterThan(0);
    expect(stillBelow(new Float32Array(9))).toBeGreaterThan(0);
  });
});
