import { describe, expect, it } from "vitest";
import type { StepFacts, StepState } from "../api/build";
import type { Step } from "../api/client";
import { isShown } from "../api/kinds";
import { declared } from "../test/bench";
import { drawnFacts, extrudeFacts, regionFacts, solidifyFacts } from "../test/facts";
import { factRows } from "./factRows";
import { faceTitle, keyValue, quantity, shownValue, withPlace } from "./stepValues";

const known = declared.kinds;
const step = (kind: string, params: Record<string, unknown>) =>
  ({ id: "s", kind, name: "S", enabled: true, params }) as Step;
const state = (part: Partial<StepState>) => part as StepState;

describe("values of steps", () => {
  it("shows the key value as typed, with its mark", () => {
    const outline = step("sketch", { plane: { id: "r" }, offset: { text: "-6 mm", mark: "intent" } });
    expect(keyValue(outline, known.sketch, undefined, "mm")).toMatchObject({ text: "-6 mm", mark: "intent" });
  });

  it("an extrusion made of profiles is told by its volume, an outline by its pieces", () => {
    expect(factRows(extrudeFacts({ volume: 1000 }), "mm")[0]![0]).toBe("Body volume");
    const rows = factRows(drawnFacts({ area: 800 }), "mm");
    expect(rows.map((r) => r[0])).toEqual(["Pieces", "Profiles", "Profile area", "Largest rms"]);
  });

  it("shows what a step chose by itself when nothing was typed", () => {
    const region = step("region", { scan: { id: "s" } });
    const shown = keyValue(region, known.region, state({ facts: regionFacts({ tolerance: 0.08 }) }), "mm");
    expect(shown).toMatchObject({ text: "", mark: "scan", means: "0.080 mm" });
  });

  it("says what a formula comes to, by its weakest leaf, and leaves a plain figure alone", () => {
    const values = { distance: { value: 25.4, length: 1, angle: 0, mark: "caliper" } };
    const built = state({ facts: null, values });
    expect(shownValue({ text: "bore_d / 2", mark: "assumed" }, "distance", built, "inch")).toMatchObject({
      means: "1.00000 inch",
      mark: "caliper",
    });
    expect(shownValue({ text: "25.4 mm", mark: "assumed" }, "distance", built, "mm").means).toBe("");
  });

  it.each([
    [{ value: 12, length: 1, angle: 0, mark: null }, "12.000 mm"],
    [{ value: 2.5, length: 0, angle: 1, mark: null }, "2.50 deg"],
    [{ value: 650, length: 2, angle: 0, mark: null }, "650.0 mm²"],
    [{ value: 3, length: 0, angle: 0, mark: null }, "3"],
  ])("writes a quantity with its unit", (q, text) => {
    expect(quantity(q, "mm")).toBe(text);
  });

  it("puts facts and faces in words", () => {
    const facts = regionFacts({ kind: "cylinder", inside: true, radius: 9, diameter: 18 });
    expect(factRows(facts, "mm")[0]).toEqual(["Surface", "hole Ø 18.00 mm"]);
    expect(factRows(null, "mm")).toEqual([]);
    const face = {
      name: "",
      label: "",
      kind: "cylinder",
      beside: [],
      area: 1,
      centre: [0, 0, 0] as [number, number, number],
      diameter: 14,
      inside: true,
    };
    expect(faceTitle(face, "mm")).toBe("Hole face, Ø 14.00 mm");
    expect(faceTitle({ ...face, kind: "plane", area: 650 }, "mm")).toBe("Flat face, 650.0 mm²");
  });

  it("a kind has words of its own before those of what it makes", () => {
    const solid = solidifyFacts({
      gaps: 1,
      closed: false,
      planes: 5,
      cylinders: 1,
      flat_facets: 12,
      volume: 1000,
      faces: 6,
    });
    const rows = factRows(solid, "mm");
    expect(rows.map((r) => r[0])).toEqual([
      "Closed",
      "Faces by kind",
      "Facets left flat",
      "Vertices within",
      "Body volume",
      "Faces",
    ]);
    expect(Object.fromEntries(rows)).toMatchObject({
      Closed: "no, one open place",
      "Faces by kind": "5 planes, 1 cylinder",
    });
    expect(factRows({ ...solid, gaps: 0, closed: true }, "mm")[0]).toEqual(["Closed", "yes, a valid solid"]);
    const agreed = { of: "intent", marks: {}, agreed: 3, dearest: 1.25, largest_shift: 0.02 } as StepFacts;
    expect(factRows(agreed, "inch").map((r) => r[1])).toEqual(["3", "1.3 u", "0.00079 inch"]);
    expect(factRows(regionFacts({ left_out: 40, u: 0.004 }), "mm").at(-1)).toEqual(["Left out as worn", "40 facets"]);
  });

  it("replaces what stands at a place and touches nothing else", () => {
    const params = {
      body: { id: "b" },
      pairs: [
        { face: { name: "old" }, seeds: [1] },
        { face: { name: "kept" }, seeds: [2] },
      ],
    };
    const change = withPlace(params, "pairs[0].face", { name: "new" });
    expect(change).toEqual({
      pairs: [
        { face: { name: "new" }, seeds: [1] },
        { face: { name: "kept" }, seeds: [2] },
      ],
    });
    expect(params.pairs[0]!.face.name).toBe("old");
  });
});

describe("kinds as they declare themselves", () => {
  it("shows a field only when it matters", () => {
    const bodies = known.extrude!.fields.find((f) => f.name === "bodies")!;
    expect(isShown(bodies, known.extrude!, {})).toBe(false);
    expect(isShown(bodies, known.extrude!, { operation: "add" })).toBe(true);
    // A tick that is not shown for a sphere hides nothing of it.
    const diameter = known.primitive!.fields.find((f) => f.name === "diameter")!;
    expect(isShown(diameter, known.primitive!, { form: "cylinder", as_found: true })).toBe(false);
    expect(isShown(diameter, known.primitive!, { form: "sphere", as_found: true })).toBe(true);
  });
});
