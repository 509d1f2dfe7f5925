import { describe, expect, it } from "vitest";
import type { StepFacts } from "../api/build";
import type { Step } from "../api/client";
import { axisLine } from "../sketch/axisLine";
import { plate } from "../test/plate";
import { view as combine } from "./combine";
import { view as revolve } from "./revolve";
import { view as shift } from "./shift";

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
    expect(revolve.waits!({})).toBe(true);
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
    expect(shift.waits!({ faces: [] })).toBe(true);
  });

  it("say how many pieces stay of what falls apart", () => {
    expect(combine.rows!(facts({ of: "combine", pieces: 1, kept: 1 }), "mm")).toEqual([]);
    expect(combine.rows!(facts({ of: "combine", pieces: 3, kept: 1 }), "mm")).toEqual([["Pieces", "1 of 3 stay"]]);
    expect(combine.waits!({ tools: [] })).toBe(true);
  });
});
