/** Choosing pieces of a section and making what a sketch takes over of them. No React. */
import type { Vec3 } from "../api/build";
import type { SectionOut } from "../api/client";
import { flattened, insidePolygon } from "../view/flat";
import type { DrawnPiece } from "../view/paths";
import type { SectionDraft } from "./draft";
import type { TakenLoop } from "./pieces";

export const pieceKey = (loop: number, piece: number) => `${loop}.${piece}`;

export function drawnPieces(section: SectionOut, left: readonly string[]): DrawnPiece[] {
  const out = new Set(left);
  return section.loops.flatMap((loop, i) =>
    loop.pieces.map((p, j) => ({
      kind: p.kind,
      path: p.path,
      on: !out.has(pieceKey(i, j)),
      unseen: p.unseen,
      seen: p.seen,
    })),
  );
}

type Loop = SectionOut["loops"][number];

/** Loops of the face that the cut was begun from: the outermost about its middle, and what lies in that; all where none is about it. */
function aboutFace(section: SectionOut, closed: readonly Loop[], middle: Vec3): readonly Loop[] {
  const flat = flattened(section.origin, section.u_axis, section.normal);
  const at = flat(middle);
  const rings = new Map(closed.map((l) => [l, l.pieces.flatMap((p) => p.path).map(flat)]));
  const outer = closed
    .filter((l) => insidePolygon(at.x, at.y, rings.get(l)!))
    .reduce<Loop | null>((most, l) => (most && most.area > l.area ? most : l), null);
  if (!outer) return closed;
  const within = (l: Loop) => insidePolygon(rings.get(l)![0]!.x, rings.get(l)![0]!.y, rings.get(outer)!);
  return closed.filter((l) => l === outer || within(l));
}

/** The pieces left out: as chosen, or until then those that no block is made of: open loops beside closed ones, and what stands beside the face
 * that the cut was begun from. */
export function leftOut(section: SectionOut, draft: Pick<SectionDraft, "left" | "around">): readonly string[] {
  if (draft.left) return draft.left;
  const closed = section.loops.filter((l) => l.closed);
  if (!closed.length) return [];
  const meant = draft.around ? aboutFace(section, closed, draft.around) : closed;
  return section.loops.flatMap((l, i) => (meant.includes(l) ? [] : l.pieces.map((_, j) => pieceKey(i, j))));
}

/** Whether any piece of the i-th loop is taken. */
export const isTaken = (loop: Loop, i: number, left: readonly string[]) =>
  loop.pieces.some((_, j) => !left.includes(pieceKey(i, j)));

/** What a sketch takes over: every loop with a taken piece, all its pieces, the left ones marked. */
export function takenLoops(
  section: SectionOut,
  left: readonly string[],
  structure: readonly TakenLoop[] | null = null,
) {
  const out = new Set(left);
  let id = 0;
  return section.loops
    .map((loop, i) => ({
      closed: structure?.[i]?.closed ?? loop.closed,
      full: structure?.[i]?.full ?? false,
      bridged: structure?.[i]?.bridged ?? loop.bridged ?? false,
      relations: structure ? (structure[i]?.relations ?? []) : loop.relations,
      pieces: loop.pieces.map((p, j) => ({
        id: `e${++id}`,
        kind: p.kind,
        start: p.start,
        end: p.end,
        mid: p.mid ?? null,
        points: p.points,
        ellipse: p.ellipse ?? null,
        taken: !out.has(pieceKey(i, j)),
        assumed: p.assumed ?? false,
      })),
    }))
    .filter((loop) => loop.pieces.some((p) => p.taken));
}

export function countKinds(pieces: { kind: string }[]): string {
  const names: [string, string, string][] = [
    ["line", "line", "lines"],
    ["arc", "arc", "arcs"],
    ["ellipse", "ellipse", "ellipses"],
    ["free", "free piece", "free pieces"],
  ];
  return names
    .map(([kind, one, many]) => {
      const n = pieces.filter((p) => p.kind === kind).length;
      return n ? `${n} ${n === 1 ? one : many}` : "";
    })
    .filter(Boolean)
    .join(", ");
}

/** Keys of a loop's pieces put in or left out. */
export function toggled(left: readonly string[], keys: readonly string[], on: boolean): string[] {
  const rest = left.filter((k) => !keys.includes(k));
  return on ? rest : [...rest, ...keys];
}

/** How near a piece lies to a wall that is meant to be the same, mm: within what the scan's noise is. The outline's tolerance is three times that. */
export const flushWithin = (fitted: Pick<SectionOut, "tolerance">) => fitted.tolerance / 3;
