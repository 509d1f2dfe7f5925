import { BufferGeometry, Mesh, PerspectiveCamera } from "three";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { stage } from "../view/stage";
import { alongInSpace, nearestOnSegment, pickEdges } from "./edges";
import { chainOf, edgeTitle } from "./parts";
import { begun } from "./starts";
import type { Borders, EdgeFacts } from "./useBorders";

const canvas = { getBoundingClientRect: () => ({ left: 0, top: 0, width: 800, height: 600 }) as DOMRect };

/** A camera on the z axis that looks down at two edges, one behind the other; the first slants away from it. */
function staged() {
  const camera = new PerspectiveCamera(50, 800 / 600, 1, 1000);
  camera.position.set(0, 0, 100);
  camera.lookAt(0, 0, 0);
  camera.updateMatrixWorld(true);
  camera.updateProjectionMatrix();
  const mesh = new Mesh(new BufferGeometry());
  const positions = new Float32Array([-20, 0, 40, 20, 0, -40, -20, 10, -60, 20, 10, -60]);
  stage.now = { camera, controls: null, canvas, gl: null, invalidate: () => undefined } as never;
  stage.bodies.set("b", {
    id: "b",
    key: "k",
    mesh,
    faces: new Uint32Array(),
    edges: { positions, edgeOf: new Uint32Array([4, 7]) },
  });
}

const edge = (part: Partial<EdgeFacts>): EdgeFacts => ({
  name: "a|b",
  label: "edge",
  kind: "line",
  faces: [0, 1],
  ends: [],
  length: 10,
  smooth: false,
  border: false,
  next: [],
  ...part,
});

describe("edges under the pointer", () => {
  beforeEach(staged);
  afterEach(() => {
    stage.now = null;
    stage.bodies.clear();
  });

  it("takes the one that is near on screen and says where on it, whatever its slant", () => {
    const [hit] = pickEdges(400, 302);
    expect(hit?.edge).toBe(4);
    // The middle of the screen is where the edge passes the axis: the middle of the edge in space.
    expect(hit?.point[0]).toBeCloseTo(0, 6);
    expect(hit?.point[2]).toBeCloseTo(0, 6);
  });

  it("takes nothing away from edges", () => {
    expect(pickEdges(400, 100)).toEqual([]);
    expect(pickEdges(790, 300)).toEqual([]);
  });

  it("finds places on segments and their depth", () => {
    expect(nearestOnSegment(5, 3, { x: 0, y: 0 }, { x: 10, y: 0 })).toEqual({ t: 0.5, away: 3 });
    expect(nearestOnSegment(-4, 3, { x: 0, y: 0 }, { x: 10, y: 0 })).toEqual({ t: 0, away: 5 });
    expect(alongInSpace(0.5, 10, 10)).toBe(0.5);
    expect(alongInSpace(0.5, 10, 30)).toBe(0.25);
    expect(alongInSpace(1, 10, 30)).toBe(1);
  });
});

describe("parts", () => {
  const borders: Borders = {
    corners: [],
    edges: [
      edge({ next: [1] }),
      edge({ next: [0, 2], length: 4 }),
      edge({ next: [1] }),
      edge({}),
      edge({ smooth: true }),
    ],
  };

  it("follows a chain to its ends", () => {
    expect(chainOf(borders, 2)).toEqual([0, 1, 2]);
    expect(chainOf(borders, 3)).toEqual([3]);
  });

  it("says what an edge is", () => {
    expect(edgeTitle(edge({}), "mm")).toBe("Straight edge, 10.00 mm");
    expect(edgeTitle(edge({ kind: "circle", radius: 5, length: 10 * Math.PI }), "mm")).toBe("Round edge, Ø 10.00 mm");
    expect(edgeTitle(edge({ kind: "circle", radius: 5, length: 8 }), "mm")).toBe("Arc, R 5.00 mm");
  });

  it("begins the kinds whose declaration asks for just that", () => {
    const field = (name: string, type: string, fallback: unknown = null) => ({ name, type, fallback });
    const kinds = {
      round: {
        id: "round",
        makes: "body",
        fields: [field("edges", "refs"), field("radius", "value", { text: "1 mm" })],
        starts: [{ takes: "edge", into: "edges", shapes: [], least: 1, most: 9, second: "", also: {} }],
      },
      line: {
        id: "line",
        makes: "axis",
        fields: [field("axis", "ref")],
        starts: [
          { takes: "edge", into: "axis", shapes: ["line"], least: 1, most: 1, second: "", also: { turned: true } },
        ],
      },
    };
    const found = (shapes: string[]) =>
      begun(kinds as never, { takes: "edge", shapes, refs: shapes.map((s) => ({ edge: s })) });
    expect(found(["line"]).map((b) => [b.kind.id, b.params])).toEqual([
      ["round", { edges: [{ edge: "line" }], radius: { text: "1 mm" } }],
      ["line", { turned: true, axis: { edge: "line" } }],
    ]);
    expect(found(["circle"]).map((b) => b.kind.id)).toEqual(["round"]);
    expect(found(["line", "line"]).map((b) => b.kind.id)).toEqual(["round"]);
    expect(begun(kinds as never, { takes: "body", shapes: ["x"], refs: [{}] })).toEqual([]);
  });
});
