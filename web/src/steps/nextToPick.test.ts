import { describe, expect, it } from "vitest";
import type { Kind } from "../api/kinds";
import declarations from "../test/declarations.json";
import { nextToChoose, nextToPick } from "./nextToPick";

const kinds = declarations.kinds as unknown as Record<string, Kind> | Kind[];
const kind = (id: string) => (Array.isArray(kinds) ? kinds.find((k) => k.id === id) : kinds[id]);
const face = { body: "b", name: "f" };

describe("what a step that is being prepared still needs", () => {
  it("is the first part that has to be picked", () => {
    expect(nextToPick(kind("level"), { faces: [face] })).toBe("pick 'lead face' in the view");
    expect(nextToPick(kind("face_fillet"), { first: face, second: null })).toBe("pick 'onto face' in the view");
    expect(nextToPick(kind("fillet"), { edges: [] })).toBe("pick 'edges' in the view");
  });

  it("or to be chosen from what stands above", () => {
    expect(nextToPick(kind("rib"), { sketch: null })).toBeNull();
    expect(nextToChoose(kind("rib"), { sketch: null })).toMatch(/^choose '/);
    expect(nextToChoose(kind("rib"), { sketch: { id: "s" }, body: { id: "b" } })).toBeNull();
    expect(nextToPick(kind("coaxial"), { face: null, onto: null })).toMatch(/^pick '/);
  });

  it("is nothing where all are there, and nothing that may be left out", () => {
    expect(nextToPick(kind("level"), { lead: face, faces: [] })).toBeNull();
    expect(nextToPick(undefined, {})).toBeNull();
  });
});
