/** Spots of bodies (corners, centres, middles) and pieces of sketches, as a click can take them. No React. */
import type { Vec3 } from "../api/build";
import { length, type Unit } from "../units";
import { edgeRef } from "./parts";
import type { Borders, CornerFacts, EdgeFacts } from "./useBorders";

export type SpotMark = "corner" | "centre" | "middle";

export interface CornerRef {
  body: string;
  vertex: string;
  place: Vec3;
}
export interface PieceRef {
  sketch: string;
  entity: string;
  place: Vec3 | null;
}
export type PartRef = CornerRef | ReturnType<typeof edgeRef> | PieceRef;

/** A place on a body that can be pointed to. */
export interface Spot {
  key: string;
  mark: SpotMark;
  at: Vec3;
  said: string;
  ref: PartRef;
}

/** A line, arc or curve of a sketch that can be pointed to. */
export interface Piece {
  key: string;
  path: Vec3[];
  said: string;
  ref: PieceRef;
}

const NEAR_PX = 12;
const COVER = 0.006; // a spot lies on the surface: it is hidden only by what is clearly nearer

const usable = (name: string) => name !== "" && !name.endsWith("?");
export const cornerRef = (body: string, corner: CornerFacts): CornerRef => ({
  body,
  vertex: corner.name,
  place: corner.centre,
});

function ofEdge(body: string, edge: EdgeFacts, unit: Unit): Spot | null {
  const ref = edgeRef(body, edge);
  if (edge.kind === "circle" && edge.origin)
    return {
      key: `${body} ${edge.name}`,
      mark: "centre",
      at: edge.origin,
      said: `centre, Ø ${length(2 * (edge.radius ?? 0), unit)}`,
      ref,
    };
  if (edge.kind === "line" && edge.centre)
    return {
      key: `${body} ${edge.name}`,
      mark: "middle",
      at: edge.centre,
      said: `middle of ${length(edge.length, unit)}`,
      ref,
    };
  return null;
}

/** Spots of one body of the wanted marks: named corners, centres of round edges (a centre that several share once), middles of
 * straight ones. */
export function spotsOf(body: string, borders: Borders, marks: readonly SpotMark[], unit: Unit): Spot[] {
  const corners = borders.corners
    .filter((c) => usable(c.name))
    .map(
      (c): Spot => ({
        key: `${body} ${c.name}`,
        mark: "corner",
        at: c.centre,
        said: "corner",
        ref: cornerRef(body, c),
      }),
    );
  const edges = borders.edges.filter((e) => usable(e.name) && !e.smooth).flatMap((e) => ofEdge(body, e, unit) ?? []);
  const told = new Set<string>();
  return [...corners, ...edges].filter((s) => {
    const place = `${s.mark} ${s.at.map((x) => x.toFixed(3)).join(" ")}`;
    if (!marks.includes(s.mark) || told.has(place)) return false;
    told.add(place);
    return true;
  });
}

/** What the nearest spot is judged by: where on the page a place is seen, how far it is, and how far what is seen there is. */
export interface Sight {
  project: (p: Vec3) => { x: number; y: number; visible: boolean };
  away: (p: Vec3) => number;
  front: (x: number, y: number) => number;
}

/** The spot nearest to the pointer, if one is near enough: what is seen before what is hidden. */
export function nearestSpot(x: number, y: number, spots: readonly Spot[], sight: Sight): Spot | null {
  const near = spots.flatMap((spot) => {
    const seen = sight.project(spot.at);
    const off = Math.hypot(seen.x - x, seen.y - y);
    if (!seen.visible || off >= NEAR_PX) return [];
    // The centre of a round edge stands in the air: it is never covered by its own body's far side.
    const covered = spot.mark !== "centre" && sight.away(spot.at) > sight.front(seen.x, seen.y) * (1 + COVER);
    return [{ spot, off: off + (covered ? NEAR_PX : 0) }];
  });
  return near.sort((a, b) => a.off - b.off)[0]?.spot ?? null;
}

/** Middle of a path, by its corners. */
const halfWay = (path: readonly Vec3[]): Vec3 | null => path[path.length >> 1] ?? null;

const PIECES: Record<string, string> = { line: "line", arc: "arc", ellipse: "ellipse", free: "curve" };

/** Pieces of one sketch; `name` is what its step is called. */
export function piecesOf(
  sketch: string,
  name: string,
  entities: readonly { id: string; kind: string; path: Vec3[] }[],
): Piece[] {
  return entities.map((e) => ({
    key: `${sketch} ${e.id}`,
    path: e.path,
    said: `${PIECES[e.kind] ?? "piece"} of ${name}`,
    ref: { sketch, entity: e.id, place: halfWay(e.path) },
  }));
}
