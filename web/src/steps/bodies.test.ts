import { describe, expect, it } from "vitest";
import type { StepFacts } from "../api/build";
import type { Step } from "../api/client";
import { axisLine } from "../sketch/axisLine";
import { plate } from "../test/plate";
import { view as cavity } from "./cavity";
import { view as combine } from "./combine";
import { view as draft } from "./draft";
import { view as hole } from "./hole";
import { view as repeat } from "./repeat";
import { view as revolve } from "./revolve";
import { view as shell } from "./shell";
import { view as shift } from "./shift";
import { view as threaded } from "./threaded";

const sketch = (helpers: string[]): Step => {
  const { drawing } = plate();
  const entities = Object.fromEntries(
    Object.entries(drawing.entities!).map(([id, e]) => [id, { ...e, construction: helpers.includes(id) }]),
  );
  return { id: "s", kind: "sketch", name: "Sketch", enabled: true, note: "", group: "", params: { entities } };
};
const facts = (part: object) => part as unknown as StepFacts;

describe("what a sketch is turned about", () => {
  it("is its only construction line", () => {
    expect(axisLine(sketch(["l2"]))).toEqual({ sketch: "s", entity: "l2" });
    expect(axisLine(sketch([]))).toBeNull();
    expect(axisLine(sketch(["l2", "l4"]))).toBeNull();
    // A construction circle is no axis.
    expect(axisLine(sketch(["c1"]))).toBeNull();
    expect(axisLine(undefined)).toBeNull();
  });
});

describe("rows of steps that make bodies", () => {
  it("say what a turn ends at, and wait for its axis", () => {
    expect(revolve.instead!({ extent: "angle" }, () => "")).toBeNull();
    expect(revolve.instead!({ extent: "until", until_region: { id: "r" } }, () => "Wall")).toBe("ends at Wall");
    expect(revolve.waits!({})).toMatch(/the axis/);
    expect(revolve.waits!({ axis: { sketch: "s", entity: "l1" } })).toBe(false);
  });

  it("tell how far a fitted axis was moved, where it was", () => {
    expect(revolve.rows!(facts({ of: "revolve", tilt: 0, off: 0 }), "mm")).toEqual([]);
    expect(revolve.rows!(facts({ of: "revolve", tilt: 0.12, off: 0.034 }), "mm")).toEqual([
      ["Axis moved into the plane", "0.034 mm"],
      ["and turned into it", "0.120°"],
    ]);
  });

  it("say how far faces went and what it came to", () => {
    expect(shift.rows!(facts({ of: "shift", moved: [2, 2], added: -120 }), "mm")).toEqual([
      ["2 faces moved by", "+2.00 mm"],
      ["Taken away", expect.stringContaining("120")],
    ]);
    expect(shift.instead!({ by: "size", size: { text: "25 mm" } }, () => "")).toBe("to 25 mm");
    expect(shift.instead!({ by: "distance" }, () => "")).toBeNull();
    expect(shift.waits!({ faces: [] })).toMatch(/faces/);
  });

  it("say how many pieces stay of what falls apart", () => {
    expect(combine.rows!(facts({ of: "combine", pieces: 1, kept: 1 }), "mm")).toEqual([]);
    expect(combine.rows!(facts({ of: "combine", pieces: 3, kept: 1 }), "mm")).toEqual([["Pieces", "1 of 3 stay"]]);
    expect(combine.waits!({ tools: [] })).toMatch(/bodies/);
  });

  it("say what a hole is for, and wait for its face and its places", () => {
    expect(hole.instead!({ size: "typed" }, () => "")).toBeNull();
    expect(hole.instead!({ size: "clearance", screw: "M8" }, () => "")).toBe("for M8");
    expect(hole.instead!({ size: "tapped", screw: "M8x1" }, () => "")).toBe("M8x1");
    const face = { body: "b", name: "top" };
    expect(hole.waits!({ by: "points", points: [] })).toMatch(/face/);
    expect(hole.waits!({ face, by: "points", points: [] })).toMatch(/points/);
    expect(hole.waits!({ face, by: "axes", axes: [] })).toMatch(/axes/);
    expect(hole.waits!({ face, by: "circle", axes: [], extent: "until" })).toMatch(/ends at/);
    expect(hole.waits!({ face, by: "centre" })).toBe(false);
    const told = {
      of: "hole",
      count: 5,
      diameter: 6.8,
      drill: "6.8 mm",
      mouth: 11,
      depth: 9,
      circle: 66,
      thread: "M8x1.25",
      off: 0.012,
    };
    expect(hole.rows!(facts(told), "mm")).toEqual([
      ["Holes", "5"],
      ["Width", "Ø 6.80 mm, drill 6.8 mm"],
      ["Screw", "M8x1.25"],
      ["At its mouth", "Ø 11.00 mm"],
      ["Full width to", "9.00 mm deep"],
      ["Circle", "Ø 66.00 mm"],
      ["Worst member off its place", "0.012 mm"],
    ]);
  });

  it("say what a shell holds and what a thread measures", () => {
    expect(shell.rows!(facts({ of: "shell", hollow: 16848, walls: 5 }), "mm")[0]?.[1]).toMatch(/16,848 mm³, 5 faces/);
    const bolt = {
      of: "threaded",
      designation: "M8x1.25",
      major: 8,
      minor: 6.647,
      pitch: 1.25,
      length: 15,
      turns: 12,
      inside: false,
      real: true,
    };
    expect(threaded.rows!(facts(bolt), "mm")).toEqual([
      ["Thread", "M8x1.25"],
      ["Over its crests", "Ø 8.000 mm"],
      ["In its roots", "Ø 6.647 mm"],
      ["Length", "15.00 mm, 12 turns"],
    ]);
    const nut = { ...bolt, inside: true, real: false, designation: null };
    expect(threaded.rows!(facts(nut), "mm").map(([what]) => what)).toEqual([
      "In its roots",
      "Between its crests",
      "Length",
      "Flanks",
    ]);
    expect(threaded.instead!({ size: "typed", pitch: { text: "1.5 mm" } }, () => "")).toBe("by its sizes");
    expect(threaded.instead!({ size: "standard", thread: "M8" }, () => "")).toBeNull();
    expect(threaded.instead!({ size: "standard", thread: "" }, () => "")).toBe("nearest");
  });

  it("say how many walls lean, and wait for where they stay", () => {
    expect(draft.waits!({ faces: [] })).toMatch(/stay/);
    expect(draft.waits!({ stays: { id: "r" } })).toBe(false);
    expect(draft.rows!(facts({ of: "draft", faces_drafted: 4, removed: -120 }), "mm")).toEqual([
      ["Walls that lean", "4"],
      ["Added", expect.stringContaining("120")],
    ]);
  });

  it("say what is within a body, by how much closes it", () => {
    const held = facts({ of: "cavity", caps: 1, walls: 7, volume: 30565.5 });
    expect(cavity.rows!(held, "mm")).toEqual([["Within", "7 walls, 1 cap"]]);
    expect(cavity.rows!(facts({ of: "cavity", caps: 2, walls: 7 }), "mm")).toEqual([["Within", "7 walls, 2 caps"]]);
    expect(cavity.instead!({ openings: [{}], closers: [{}] }, () => "")).toBe("1 face, 1 body");
    expect(cavity.instead!({ openings: [{}, {}] }, () => "")).toBe("2 faces");
    expect(cavity.instead!({}, () => "")).toBe("as it is");
  });

  it("say how many members there are, and wait for what they are and where they lie", () => {
    expect(repeat.waits!({ what: "body" })).toMatch(/body/);
    expect(repeat.waits!({ what: "steps", steps: [] })).toMatch(/steps/);
    expect(repeat.waits!({ what: "steps", steps: [{ id: "s" }], bodies: [] })).toMatch(/bodies/);
    expect(repeat.waits!({ body: { id: "b" } })).toMatch(/row/);
    expect(repeat.waits!({ body: { id: "b" }, by: "mirror" })).toMatch(/mirrored/);
    expect(repeat.waits!({ body: { id: "b" }, by: "circle", axis: { id: "a" } })).toBe(false);
    expect(repeat.instead!({ by: "mirror" }, () => "")).toBe("mirrored");
    expect(repeat.rows!(facts({ of: "repeat", members: 5, left_out: 1, angle: 72 }), "mm")).toEqual([
      ["Members", "5, 1 left out"],
      ["Apart by", "72°"],
    ]);
    expect(repeat.rows!(facts({ of: "repeat", members: 3, left_out: 0, pitch: 20 }), "mm")).toEqual([
      ["Members", "3"],
      ["Pitch", "20.00 mm"],
    ]);
  });
});
