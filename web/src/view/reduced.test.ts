import { describe, expect, it } from "vitest";
import { type Reduced, shownColours, shownFacets, wholeFacets } from "./reduced";

// Six facets of the scan are shown by two, a seventh by none; of four vertices the second and the last.
const reduced: Reduced = {
  vertexOf: Uint32Array.of(1, 3),
  facetOf: Uint32Array.of(4, 1),
  shownBy: Uint32Array.of(1, 1, 0, 0, 0, 1, 2),
};

describe("a reduced view", () => {
  it("turns what is shown into all it stands for", () => {
    expect([...wholeFacets(reduced, Uint32Array.of(1))]).toEqual([0, 1, 5]);
    expect([...wholeFacets(reduced, Uint32Array.of(1, 0))]).toEqual([0, 1, 2, 3, 4, 5]);
    expect([...wholeFacets(reduced, new Uint32Array())]).toEqual([]);
  });
  it("shows each facet once", () => {
    expect([...shownFacets(reduced, Uint32Array.of(0, 1, 5))]).toEqual([1]);
    expect([...shownFacets(reduced, Uint32Array.of(6))]).toEqual([]);
    expect([...shownFacets(reduced, Uint32Array.of(0, 1, 2, 3, 4, 5))]).toEqual([1, 0]);
  });
  it("takes the colours of the vertices that are shown", () => {
    expect([...shownColours(reduced, Uint8Array.from([...Array(12).keys()]))]).toEqual([3, 4, 5, 9, 10, 11]);
  });
});
