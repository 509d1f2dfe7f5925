import { describe, expect, it } from "vitest";
import { area, length, roughLength, signed, typed, volume } from "./units";

describe("units", () => {
  it("writes lengths in the job's unit", () => {
    expect(length(25.4, "inch")).toBe("1.0000 inch");
    expect(length(12, "mm")).toBe("12.00 mm");
    expect(signed(-0.1, "mm", 1)).toBe("−0.100 mm");
    expect(area(645.16, "inch")).toBe("1.000 inch²");
    expect(volume(16387.064, "inch")).toBe("1 inch³");
  });
  it("reads what people type", () => {
    expect(roughLength("-6 mm", "inch")).toBe(-6);
    expect(roughLength("1/2 inch", "mm")).toBeCloseTo(12.7);
    expect(roughLength("2", "inch")).toBeCloseTo(50.8);
    expect(roughLength("6 +", "mm")).toBeNaN();
  });
  it("shortens dragged values", () => {
    expect(typed(-6.0000001, "mm")).toBe("-6 mm");
  });
});
