import { BoxGeometry, Mesh, PerspectiveCamera } from "three";
import { describe, expect, it } from "vitest";
import { useClip } from "../clip/clip";
import { facetsInside, joined, polygonMask, strokeMask } from "./lasso";

const area = (mask: { inside: Uint8Array }) => mask.inside.reduce((a, b) => a + b, 0);

describe("drawn shapes", () => {
  it("a rectangle fills its own area", () => {
    const corners = [
      { x: 10, y: 20 },
      { x: 50, y: 20 },
      { x: 50, y: 45 },
      { x: 10, y: 45 },
    ];
    const mask = polygonMask(100, 80, corners);
    expect(area(mask)).toBe(40 * 25);
    expect(mask.inside[30 * 100 + 30]).toBe(1);
    expect(mask.inside[50 * 100 + 30]).toBe(0);
  });

  it("a hole drawn by crossing the own line stays out, and what leaves the view is cut off", () => {
    const star = Array.from({ length: 5 }, (_, k) => {
      const a = -Math.PI / 2 + (k * 4 * Math.PI) / 5;
      return { x: 50 + 40 * Math.cos(a), y: 50 + 40 * Math.sin(a) };
    });
    expect(polygonMask(100, 100, star).inside[50 * 100 + 50]).toBe(0);
    expect(
      area(
        polygonMask(20, 20, [
          { x: -50, y: -50 },
          { x: 90, y: -50 },
          { x: 90, y: 90 },
          { x: -50, y: 90 },
        ]),
      ),
    ).toBe(400);
  });

  it("a stroke is as wide as the brush", () => {
    const mask = strokeMask(100, 100, [{ x: 50, y: 50 }], 10);
    expect(Math.abs(area(mask) - Math.PI * 100)).toBeLessThan(30);
  });
});

describe("facets inside a shape", () => {
  const box = new Mesh(new BoxGeometry(10, 10, 10, 4, 4, 4));
  const camera = new PerspectiveCamera(30, 1, 1, 1000);
  camera.position.set(0, 0, 60);
  camera.lookAt(0, 0, 0);
  const all = { width: 100, height: 100, inside: new Uint8Array(10_000).fill(1) };
  const z = (f: number) => {
    const index = box.geometry.index!;
    const p = box.geometry.getAttribute("position");
    return [0, 1, 2].map((k) => p.getZ(index.getX(3 * f + k)));
  };

  it("goes through the part: front, back and sides", () => {
    expect(facetsInside(box, camera, all, null)).toHaveLength(box.geometry.index!.count / 3);
  });

  it("takes nothing outside the shape", () => {
    const none = { ...all, inside: new Uint8Array(10_000) };
    expect(facetsInside(box, camera, none, null)).toHaveLength(0);
  });

  it("takes only what can be seen, when that is asked for", () => {
    // Everything at the front face's distance: what lies behind it is covered.
    const depth = { width: 50, height: 50, depth: new Float32Array(2500).fill(55), view: "" };
    const seen = facetsInside(box, camera, all, depth);
    expect(seen).toHaveLength(32);
    for (const f of seen) expect(z(f)).toEqual([5, 5, 5]);
  });

  it("takes nothing of what is cut away, wherever the scan lies, and the backs that the cut lets one see", () => {
    const { set } = useClip.getState();
    set({ along: "z", origin: [0, 0, 0], normal: [0, 0, 1], offset: 1, flipped: false });
    const kept = facetsInside(box, camera, all, null);
    const middle = (f: number) => z(f).reduce((a, b) => a + b) / 3;
    expect(kept.length).toBeGreaterThan(0);
    expect([...kept].every((f) => middle(f) <= 1)).toBe(true);
    // Looked into from above, the floor is seen from behind.
    const depth = { width: 50, height: 50, depth: new Float32Array(2500), view: "" };
    expect([...facetsInside(box, camera, all, depth)].some((f) => z(f).every((h) => h === -5))).toBe(true);
    set({ along: "z", origin: [0, 0, 0], normal: [0, 0, 1], offset: 1, flipped: true });
    const other = facetsInside(box, camera, all, null);
    expect(kept.length + other.length).toBe(box.geometry.index!.count / 3);
    set(null);
    expect(facetsInside(box, camera, all, null)).toHaveLength(box.geometry.index!.count / 3);
  });

  it("adds and takes away", () => {
    const a = new Uint32Array([1, 4, 9]);
    const b = new Uint32Array([4, 7]);
    expect([...joined(a, b, "add")]).toEqual([1, 4, 7, 9]);
    expect([...joined(a, b, "take")]).toEqual([1, 9]);
    expect([...joined(a, b, "replace")]).toEqual([4, 7]);
    expect([...joined(null, b, "take")]).toEqual([]);
  });
});
