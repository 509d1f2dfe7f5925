import { describe, expect, it } from "vitest";
import type { Vec3 } from "../api/build";
import type { FaceFacts } from "../api/client";
import { plural } from "../ui/surfaces";
import { axisOf, coaxial, edgesOfSize, facesOfSize, ofKind } from "./alike";
import type { EdgeFacts } from "./useBorders";

const face = (part: Partial<FaceFacts>): FaceFacts => ({
  name: "f",
  label: "f",
  kind: "cylinder",
  beside: [],
  area: 100,
  centre: [0, 0, 0],
  axis: [0, 0, 1],
  origin: [0, 0, 0],
  diameter: 10,
  inside: true,
  ...part,
});
const flat = face({ kind: "plane", origin: null, diameter: null, inside: null });
const edge = (part: Partial<EdgeFacts>): EdgeFacts => ({
  name: "e",
  label: "e",
  kind: "line",
  faces: [0, 1],
  ends: [],
  length: 10,
  smooth: false,
  border: false,
  next: [],
  ...part,
});

describe("faces that go together", () => {
  const faces = [
    face({}),
    face({ origin: [0, 0, 40], axis: [0, 0, -1], diameter: 22 }), // further along, turned round
    face({ origin: [3, 0, 0] }), // beside it
    face({ axis: [0, 1e-3, 1] as Vec3 }), // leaning
    face({ kind: "cone", diameter: null, inside: null, area: 7 }),
    flat, // its normal runs along the axis, through it: a plane has no axis all the same
    face({ inside: false }),
    face({ kind: "plane", origin: null, diameter: null, inside: null, area: 100.001 }),
  ];

  it("lie on one axis, whichever way it points", () => {
    expect(coaxial(faces, faces[0]!)).toEqual([0, 1, 4, 6]);
    expect(coaxial(faces, flat)).toEqual([]);
    expect(axisOf(flat)).toBeNull();
  });

  it("are of one size: holes of a diameter, planes of an area", () => {
    expect(facesOfSize(faces, faces[0]!)).toEqual([0, 2, 3]);
    expect(facesOfSize(faces, flat)).toEqual([5, 7]);
  });

  it("are of one kind, holes and outside cylinders apart", () => {
    expect(ofKind(faces, faces[0]!)).toEqual([0, 1, 2, 3]);
    expect(ofKind(faces, faces[6]!)).toEqual([6]);
    expect(ofKind(faces, flat)).toEqual([5, 7]);
  });

  it("are called in the plural", () => {
    expect(["Hole", "Plane", "Torus", "Freeform", "Inside cone"].map(plural)).toEqual([
      "holes",
      "planes",
      "tori",
      "freeform faces",
      "inside cones",
    ]);
  });
});

describe("edges that go together", () => {
  const rim = { kind: "circle", axis: [0, 0, 1] as Vec3, radius: 5 };
  const edges = [
    edge({ ...rim, origin: [0, 0, 0] }),
    edge({ ...rim, origin: [0, 0, 8], radius: 7 }),
    edge({ ...rim, origin: [0, 0, 9], smooth: true }),
    edge({ ...rim, origin: [2, 0, 0] }),
    edge({ axis: [0, 0, 1] as Vec3 }),
    edge({ length: 10.0004 }),
  ];

  it("share an axis, a size, a kind; smooth ones never count", () => {
    expect(coaxial(edges, edges[0]!)).toEqual([0, 1]);
    expect(edgesOfSize(edges, edges[0]!)).toEqual([0, 3]);
    expect(edgesOfSize(edges, edges[4]!)).toEqual([4, 5]);
    expect(ofKind(edges, edges[0]!)).toEqual([0, 1, 3]);
    expect(coaxial(edges, edges[4]!)).toEqual([]);
  });
});
