import { describe, expect, it } from "vitest";
import { area, brief, length, points, roughLength, signed, sized, typed, volume, workedOut } from "./units";

describe("units", () => {
  it("writes lengths in the job's unit", () => {
    expect(length(25.4, "inch")).toBe("1.0000 inch");
    expect(length(12, "mm")).toBe("12.00 mm");
    expect(signed(-0.1, "mm", 1)).toBe("−0.100 mm");
    expect(signed(0.1, "mm")).toBe("+0.10 mm");
    expect(signed(-0.0004, "mm")).toBe("0.00 mm");
    expect(signed(0, "inch")).toBe("0.0000 inch");
    expect([points(-0.0004), points(-0.0006), points(0.197)]).toEqual(["0.0", "−0.1", "+19.7"]);
    expect(area(645.16, "inch")).toBe("1.000 inch²");
    expect(volume(16387.064, "inch")).toBe("1 inch³");
  });
  it("reads what people type", () => {
    expect(roughLength("-6 mm", "inch")).toBe(-6);
    expect(roughLength("1/2 inch", "mm")).toBeCloseTo(12.7);
    expect(roughLength("2", "inch")).toBeCloseTo(50.8);
    expect(roughLength("3 1/8 in", "mm")).toBeCloseTo(79.375);
    expect(roughLength("-3 1/8", "inch")).toBeCloseTo(-79.375);
    expect(roughLength("3 4", "mm")).toBeNaN();
    expect(roughLength("6 +", "mm")).toBeNaN();
  });
  it("writes what was worked out to its first figure, however small", () => {
    expect(workedOut(0.08, "mm")).toBe("0.080 mm");
    expect(workedOut(0.0000213, "mm")).toBe("0.00002 mm");
    expect(workedOut(0.0000213, "inch")).toBe("0.0000008 inch");
    expect(workedOut(-0.0004, "mm")).toBe("-0.0004 mm");
    expect(workedOut(0, "mm")).toBe("0.000 mm");
    expect(workedOut(120, "mm")).toBe("120.000 mm");
    expect(brief(0.0123, "mm")).toBe("0.01");
    expect(brief(0.0123, "mm", 1)).toBe("0.012");
    expect(brief(0.0000213, "mm")).toBe("2e-5");
    expect(brief(0.0002, "inch")).toBe("8e-6");
    expect(brief(3e-15, "mm", 1)).toBe("<1e-6");
    expect(brief(0, "mm", 1)).toBe("0.000");
  });
  it("shortens dragged values", () => {
    expect(typed(-6.0000001, "mm")).toBe("-6 mm");
  });
});

describe("a size read out", () => {
  it("says in inches the fraction that it nearly is, and nothing where it is none that anybody means", () => {
    expect(sized(9.525, "inch")).toBe("0.3750 inch (3/8)");
    expect(sized(79.4, "inch")).toBe("3.1260 inch (3 1/8)");
    expect(sized(9.7, "inch")).toBe("0.3819 inch");
    expect(sized(25.4 * (23 / 64), "inch")).toBe("0.3594 inch"); // nobody means a 64th by chance
    expect(sized(9.525, "mm")).toBe("9.53 mm");
  });
});
