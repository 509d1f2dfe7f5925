import { describe, expect, it } from "vitest";
import type { SectionOut } from "../api/client";
import { useTool } from "../sheets/tool";
import { plainSection } from "./draft";
import { countKinds, drawnPieces, isTaken, leftOut, takenLoops, toggled } from "./taken";
import { endingAt, reached, sharedReach } from "./useOpenExtrude";

const piece = (kind: "line" | "arc") => ({
  kind,
  start: [0, 0] as [number, number],
  end: [1, 0] as [number, number],
  mid: null,
  points: [],
  radius: null,
  length: 1,
  rms: 0,
  unseen: [],
  seen: [],
  assumed: false,
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

describe("how far a block reaches", () => {
  const reach = (behind: number, ahead: number, more: { within?: number; stands_behind?: boolean } = {}) => ({
    behind,
    ahead,
    within: 0,
    stands_behind: false,
    stands_ahead: false,
    ...more,
  });
  const own = (text: string, note = "") => ({ text, mark: "scan", note });
  it("is both ways at once where the plane lies within the part, and as the scan has it", () => {
    expect(reached(reach(3, 8.999), "mm", false)).toEqual({
      distance: own("9 mm"),
      back: own("3 mm"),
    });
    expect(reached(reach(0.01, 12), "mm", false)).toEqual({ distance: own("12 mm") });
  });
  it("goes against the normal alone from the upper face, and is written in the job's unit", () => {
    expect(reached(reach(25.4, 0), "inch", false)).toEqual({ distance: own("-1 inch") });
  });
  it("goes a little into what an added block stands on, and says so; a new one does not", () => {
    const boss = reach(10, 2, { stands_behind: true });
    const into = "as far as the scan goes, and 0.50 mm into what it stands on";
    expect(reached(boss, "mm", true)).toEqual({ distance: own("2 mm"), back: own("10.5 mm", into) });
    expect(reached(boss, "mm", false)).toEqual({ distance: own("2 mm"), back: own("10 mm") });
    expect(reached({ ...boss, ahead: 0 }, "mm", true)).toEqual({ distance: own("-10.5 mm", into) });
  });
  it("is left to the person where no wall was seen", () => {
    expect(reached(null, "mm", false)).toBeNull();
    expect(reached(reach(0, 0.01), "mm", false)).toBeNull();
  });
  it("is the shortest of the outermost loops taken; a hole has a say only when it is alone", () => {
    const [plate, ear, hole] = [reach(3, 9), reach(4, 7), reach(1, 1, { within: 1 })];
    expect(sharedReach([plate, null, ear, hole])).toEqual(reach(3, 7));
    expect(sharedReach([hole, undefined])).toEqual(hole);
    expect(sharedReach([])).toBeNull();
  });
  it("ends at the face that the section was begun from, though other walls of the outline go on", () => {
    expect(endingAt(reach(17, 7), 1)).toEqual(reach(17, 1));
    expect(endingAt(reach(17, 7, { stands_behind: true }), -4)).toEqual(reach(4, 7));
    expect(endingAt(reach(3, 0.8), 1)).toEqual(reach(3, 0.8));
    expect(endingAt(reach(3, 9), 0)).toEqual(reach(3, 9));
    expect(endingAt(null, 2)).toBeNull();
  });
  it("asks only loops of which something is taken", () => {
    expect(section.loops.map((l, i) => isTaken(l, i, ["0.0", "1.0"]))).toEqual([true, false]);
  });
});

describe("what is left out before anybody chooses", () => {
  const open = { ...section.loops[1]! };
  it("are open loops beside closed ones, and nothing where all are open or all are closed", () => {
    expect(leftOut(section, { left: null })).toEqual(["1.0"]);
    expect(leftOut({ ...section, loops: [open, open] }, { left: null })).toEqual([]);
    expect(leftOut({ ...section, loops: [section.loops[0]!] }, { left: null })).toEqual([]);
  });
  it("is just what was chosen once somebody has, be it nothing", () => {
    expect(leftOut(section, { left: [] })).toEqual([]);
    expect(leftOut(section, { left: ["0.0"] })).toEqual(["0.0"]);
  });
  it("is what stands beside the face it was begun from, but not the holes in it", () => {
    const square = (x: number, half: number) => {
      const corners = [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ].map(([a, b]) => [x + half * a!, half * b!, 7]);
      const path = [...corners, corners[0]!] as [number, number, number][];
      return {
        closed: true,
        explained: true,
        bridged: false,
        length: 8 * half,
        area: 4 * half ** 2,
        reach: null,
        relations: [],
        pieces: [{ ...piece("line"), path }],
      };
    };
    const loops = [square(0, 10), square(2, 1), square(50, 12), square(50, 3)];
    const cut = { ...section, origin: [0, 0, 7], u_axis: [1, 0, 0], normal: [0, 0, 1], loops } as SectionOut;
    expect(leftOut(cut, { left: null, around: [4, 4, 9] })).toEqual(["2.0", "3.0"]);
    expect(leftOut(cut, { left: null, around: [50, 0, 9] })).toEqual(["0.0", "1.0"]);
    expect(leftOut(cut, { left: null, around: [30, 0, 9] })).toEqual([]); // about none: nothing can be told
    expect(leftOut(cut, { left: null, around: null })).toEqual([]);
  });
  it("is forgotten with the plane's place", () => {
    useTool.getState().openSection({ ...plainSection, region: "r", origin: [0, 0, 0], normal: [0, 0, 1], offset: "0" });
    useTool.getState().setSection({ left: ["0.0"], edited: [] });
    useTool.getState().recut({ offset: "-2 mm" });
    expect(useTool.getState().section).toMatchObject({ offset: "-2 mm", left: null, edited: null });
  });
});
