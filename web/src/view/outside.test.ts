import { BoxGeometry, BufferGeometry, PlaneGeometry, SphereGeometry } from "three";
import { describe, expect, it } from "vitest";
import { showsItsOutside } from "./outside";

const part = (surface: BufferGeometry, from: number, to: number) =>
  surface.setIndex([...surface.index!.array].slice(from, to));

describe("a scan shows its outside", () => {
  it("where it goes all round, wherever it lies and whatever small holes it has", () => {
    expect(showsItsOutside(new SphereGeometry(5).translate(100, -40, 7))).toBe(true);
    expect(showsItsOutside(part(new BoxGeometry(20, 20, 20, 6, 6, 6).translate(50, 0, 0), 60, Infinity))).toBe(true);
  });

  it("but not from behind, where only one side was scanned, or everything is inside out", () => {
    expect(showsItsOutside(new PlaneGeometry(5, 5))).toBe(false);
    const box = new BoxGeometry(20, 20, 20);
    expect(showsItsOutside(part(box.clone(), 6, 36))).toBe(false); // without one of its sides
    expect(showsItsOutside(box.clone().setIndex([...box.index!.array].reverse()))).toBe(false);
    expect(showsItsOutside(new BufferGeometry())).toBe(false);
  });
});
