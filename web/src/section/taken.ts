/** Choosing pieces of a section and making an outline step's parameters of them. No React. */
import type { SectionOut } from "../api/client";
import type { DrawnPiece } from "../view/paths";
import type { TakenLoop } from "./pieces";

export const pieceKey = (loop: number, piece: number) => `${loop}.${piece}`;

export function drawnPieces(section: SectionOut, left: readonly string[]): DrawnPiece[] {
  const out = new Set(left);
  return section.loops.flatMap((loop, i) =>
    loop.pieces.map((p, j) => ({ kind: p.kind, path: p.path, on: !out.has(pieceKey(i, j)) })),
  );
}

/** The pieces left out: as chosen, or until then those of open loops where there are closed ones, which a block can be made of. */
export function leftOut(section: SectionOut, chosen: readonly string[] | null): readonly string[] {
  if (chosen) return chosen;
  if (!section.loops.some((l) => l.closed)) return [];
  return section.loops.flatMap((l, i) => (l.closed ? [] : l.pieces.map((_, j) => pieceKey(i, j))));
}

/** Whether any piece of the i-th loop is taken. */
export const isTaken = (loop: SectionOut["loops"][number], i: number, left: readonly string[]) =>
  loop.pieces.some((_, j) => !left.includes(pieceKey(i, j)));

/** The outline step's loops: every loop with a taken piece, all its pieces, the left ones marked. */
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
      relations: structure?.[i]?.relations ?? [],
      pieces: loop.pieces.map((p, j) => ({
        id: `e${++id}`,
        kind: p.kind,
        start: p.start,
        end: p.end,
        mid: p.mid ?? null,
        points: p.points,
        ellipse: p.ellipse ?? null,
        taken: !out.has(pieceKey(i, j)),
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
