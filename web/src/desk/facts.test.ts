import { describe, expect, it } from "vitest";
import { bare, freeName, inU, parts, type ReadingFacts, readingText, takeText } from "./facts";

const facts = (part: Partial<ReadingFacts>): ReadingFacts => ({
  dimension: "length",
  n: 3,
  mean: 12.03,
  s: 0.01,
  u: 0.006,
  U95: 0.012,
  spread: 0.02,
  type_a: 0.005,
  resolution: 0.003,
  limit: 0,
  pooled: 0,
  each: 12.03,
  outliers: [],
  methods: [],
  agree: true,
  instrument: null,
  unit: null,
  tolerance: null,
  ...part,
});

describe("what the desk says of a reading", () => {
  it("mean and expanded uncertainty in the shown unit", () => {
    expect(readingText(facts({}), "mm")).toBe("12.030 mm ± 0.0120");
    expect(readingText(facts({ mean: 25.4 }), "inch")).toBe("1.00000 inch ± 0.000472");
    expect(readingText(facts({ dimension: "angle", mean: 30.5, U95: 0.08 }), "mm")).toBe("30.50 deg ± 0.080");
  });

  it("one take has no uncertainty, and says so", () => {
    expect(readingText(facts({ n: 1, mean: 5, u: null, U95: null }), "mm")).toBe("5.000 mm, one take");
    expect(readingText(undefined, "mm")).toBe("no takes yet");
  });

  it("differences in units of uncertainty, marked when chance does not explain them", () => {
    expect(inU(-3.25)).toEqual({ text: "−3.3 u", far: true });
    expect(inU(1.2)).toEqual({ text: "+1.2 u", far: false });
    expect(inU(null).text).toBe("–");
  });

  it("the parts of an uncertainty come largest first, and those that are nothing stay away", () => {
    expect(parts(facts({ limit: 0.0115 })).map((p) => p.what)).toEqual([
      "error limit",
      "spread of the takes",
      "step of the display",
    ]);
    expect(parts(facts({ pooled: 4, resolution: 0 }))[0]!.what).toContain("4 readings");
  });

  it("takes keep the digits of their unit", () => {
    expect(takeText({ value: 12, unit: "mm", method: "jaws", note: "", struck: "" })).toBe("12.00 mm");
    expect(takeText({ value: 0.4735, unit: "inch", method: "jaws", note: "", struck: "" })).toBe("0.4735 inch");
    expect(takeText({ value: 12.035, unit: "mm", method: "jaws", note: "", struck: "" })).toBe("12.035 mm");
  });

  it("free names and bare figures", () => {
    expect(freeName(["reading_1", "rim", "reading_2"])).toBe("reading_3");
    expect(bare(12.5, "mm")).toBe("12.500");
    expect(bare(undefined, "mm")).toBe("–");
  });
});
