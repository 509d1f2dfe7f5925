/** Steps that the parts picked in the view begin, with these in their places: for the card beside them, and for the search. No React. */
import type { Kind } from "../api/kinds";
import { faceRef } from "../steps/stepValues";
import { edgeRef } from "./parts";
import type { BodyPick, EdgePick, FacePick } from "./picks";
import { type Begun, begun } from "./starts";

type Kinds = Record<string, Kind>;

export interface Picked {
  faces: readonly FacePick[];
  edges: readonly EdgePick[];
  bodies: readonly BodyPick[];
}

/** What works on the body as a whole is told which one it is. */
export function byFaces(kinds: Kinds, faces: readonly FacePick[]): Begun[] {
  const first = faces[0];
  if (!first || faces.some((f) => f.body !== first.body)) return [];
  const refs = faces.map((f) => faceRef(f.body, f.face));
  return begun(kinds, { takes: "face", shapes: faces.map((f) => f.face.kind), refs }).map((b) => {
    const body = b.kind.fields.find((f) => f.type === "ref" && f.reference === "body" && f.needed);
    return body ? { ...b, params: { ...b.params, [body.name]: { id: first.body } } } : b;
  });
}

/** Where faces run into one another, or one ends alone, there is nothing to work on: something can only be made from it. */
export function byEdges(kinds: Kinds, edges: readonly EdgePick[]): Begun[] {
  const refs = edges.map((e) => edgeRef(e.body, e.edge));
  const found = begun(kinds, { takes: "edge", shapes: edges.map((e) => e.edge.kind), refs });
  return edges.some((e) => e.edge.smooth || e.edge.border) ? found.filter((f) => f.kind.makes !== "body") : found;
}

export const byBodies = (kinds: Kinds, bodies: readonly BodyPick[]): Begun[] =>
  begun(kinds, { takes: "body", shapes: [], refs: bodies.map((b) => ({ id: b.body })) });

/** What a bore has left is a hole: it begins other things than the outside of a boss. */
export const regionShape = ({ kind, outward }: { kind: string; outward: number }): string =>
  kind === "cylinder" && outward < 0 ? "hole" : kind;

/** Of a region of a shape, kept or about to be. diameter: as it was fitted, in words, where it has one: what asks for one begins with that. */
export function byRegion(kinds: Kinds, shape: string, id: string, diameter: string | null): Begun[] {
  const found = begun(kinds, { takes: "region", shapes: [shape], refs: [{ id }] });
  const asks = (k: Kind) => k.fields.some((f) => f.name === "diameter" && f.type === "value");
  return found.map((b) =>
    diameter && asks(b.kind) ? { ...b, params: { ...b.params, diameter: { text: diameter, mark: "scan" } } } : b,
  );
}

/** Of whatever is picked; nothing where nothing is. */
export function byPicks(kinds: Kinds, { faces, edges, bodies }: Picked): Begun[] {
  if (faces.length) return byFaces(kinds, faces);
  if (edges.length) return byEdges(kinds, edges);
  return bodies.length ? byBodies(kinds, bodies) : [];
}
