import { describe, expect, it } from "vitest";
import { arcTick, drawingOf, polylineSegments } from "./paths";

describe("drawn outlines", () => {
  it("closes a polyline", () => {
    const square = new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0]);
    expect(polylineSegments(square, true).length).toBe(18);
    expect(polylineSegments(square, false).length).toBe(12);
    expect([...polylineSegments(square, true).slice(12)]).toEqual([1, 1, 0, 0, 0, 0]);
  });
  it("marks an arc across its middle", () => {
    const t = arcTick([[-1, 0, 0], [0, 1, 0], [1, 0, 0]], 0.5); // biome-ignore format: one row
    expect(t[0]).toBeCloseTo(0);
    expect(Math.abs(t[4]! - t[1]!)).toBeCloseTo(1);
  });
  it("keeps pieces apart by kind and by whether they are taken", () => {
    const path: [number, number, number][] = [
      [0, 0, 0],
      [1, 0, 0],
    ];
    const d = drawingOf(
      [
        { kind: "line", path, on: true },
        { kind: "line", path, on: false },
      ],
      1,
    );
    expect(d.line.length).toBe(6);
    expect(d.off.length).toBe(6);
    expect(d.ends.length).toBe(6);
  });
});
