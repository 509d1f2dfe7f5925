/** What can be taken just now beside faces and edges, and which of it the pointer is at. */
import { create } from "zustand";
import type { Vec3 } from "../api/build";
import { isKept } from "../clip/clip";
import { awayFromCamera, pickBodies, project } from "../view/stage";
import { useArmed } from "./armed";
import { COVER, pickEdges } from "./edges";
import { nearestOnPaths } from "./pointer";
import { nearestSpot, type Piece, type Spot } from "./spots";

interface Offered {
  spots: readonly Spot[];
  pieces: readonly Piece[];
  over: Spot | Piece | null;
  offer: (spots: readonly Spot[], pieces: readonly Piece[]) => void;
  point: (at: Spot | Piece | null) => void;
}

export const useOffered = create<Offered>((set, get) => ({
  spots: [],
  pieces: [],
  over: null,
  offer: (spots, pieces) => set({ spots, pieces, over: null }),
  point: (over) => {
    if (get().over?.key !== over?.key) set({ over });
  },
}));

const seen = (p: Vec3) => {
  const at = project(p);
  return { ...at, visible: at.visible && isKept(p) };
};
const front = (x: number, y: number) => pickBodies(x, y)[0]?.distance ?? Number.POSITIVE_INFINITY;

/** A piece is drawn through what lies before it: where an edge is seen in its place, the edge is meant. */
const covered = (at: Vec3, x: number, y: number) =>
  Boolean(useArmed.getState().armed?.onEdge) &&
  front(x, y) < awayFromCamera(at) * (1 - COVER) &&
  pickEdges(x, y).length > 0;

/** The spot, else the piece of a sketch, at a place on the page. */
export function offeredAt(x: number, y: number): Spot | Piece | null {
  const { spots, pieces } = useOffered.getState();
  const spot = spots.length ? nearestSpot(x, y, spots, { project: seen, away: awayFromCamera, front }) : null;
  if (spot || pieces.length === 0) return spot;
  const found = nearestOnPaths(
    x,
    y,
    pieces.map((p) => p.path),
  );
  return found === null || covered(found.at, x, y) ? null : pieces[found.path]!;
}
