import { describe, expect, it } from "vitest";
import type { SectionOut } from "../api/client";
import { countKinds, drawnPieces, takenLoops, toggled } from "./taken";

const piece = (kind: "line" | "arc") => ({
  kind,
  start: [0, 0] as [number, number],
  end: [1, 0] as [number, number],
  mid: null,
  points: [],
  radius: null,
  length: 1,
  rms: 0,
  path: [[0, 0, 0]] as [number, number, number][],
});
const section = {
  loops: [
    { closed: true, length: 2, area: 1, pieces: [piece("line"), piece("arc")] },
    { closed: false, length: 1, area: 0, pieces: [piece("line")] },
  ],
} as unknown as SectionOut;

describe("taking pieces", () => {
  it("takes everything with running ids", () => {
    const loops = takenLoops(section, []);
    expect(loops.map((l) => l.pieces.map((p) => p.id))).toEqual([["e1", "e2"], ["e3"]]);
  });
  it("drops loops with nothing taken and marks left pieces", () => {
    const loops = takenLoops(section, ["0.1", "1.0"]);
    expect(loops).toHaveLength(1);
    expect(loops[0]?.pieces.map((p) => p.taken)).toEqual([true, false]);
    expect(drawnPieces(section, ["0.1"]).map((p) => p.on)).toEqual([true, false, true]);
  });
  it("counts in words", () => {
    expect(countKinds(section.loops[0]!.pieces)).toBe("1 line, 1 arc");
    expect(countKinds([])).toBe("");
  });
  it("toggles keys", () => {
    expect(toggled(["a"], ["a", "b"], true)).toEqual([]);
    expect(toggled(["a"], ["b"], false)).toEqual(["a", "b"]);
  });
});
