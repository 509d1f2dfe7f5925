import { BufferAttribute, BufferGeometry } from "three";
import { describe, expect, it } from "vitest";
import { isCoarse } from "./coarse";

const mesh = (facets: number) => {
  const g = new BufferGeometry();
  g.setIndex(new BufferAttribute(new Uint32Array(3 * facets), 1));
  return g;
};

describe("a coarse mesh", () => {
  it("has so few facets that each is seen by itself", () => {
    expect([12, 29_999, 30_000, 1_000_000].map((n) => isCoarse(mesh(n)))).toEqual([true, true, false, false]);
    expect(isCoarse(new BufferGeometry())).toBe(true);
  });
});
