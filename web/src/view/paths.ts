/** Turns outlines into the segments and marks that the view draws. */
import type { Vec3 } from "../api/build";

export interface DrawnPiece {
  kind: "line" | "arc" | "ellipse" | "free";
  path: Vec3[];
  on: boolean;
  /** What of it nobody has seen, and the rest; none where all was seen. */
  unseen?: Vec3[][];
  seen?: Vec3[][];
}

export interface Drawing {
  line: Float32Array;
  arc: Float32Array;
  free: Float32Array;
  off: Float32Array;
  /** Assumed: under which the scan has nothing. */
  assumed: Float32Array;
  ends: Float32Array;
}

export function segmentsOf(path: readonly Vec3[]): number[] {
  const out: number[] = [];
  for (let i = 1; i < path.length; i++) out.push(...path[i - 1]!, ...path[i]!);
  return out;
}

/** Points of a closed or open polyline as segments. */
export function polylineSegments(points: Float32Array, closed: boolean): Float32Array {
  const n = points.length / 3;
  const count = closed ? n : n - 1;
  const out = new Float32Array(Math.max(0, count) * 6);
  for (let i = 0; i < count; i++) {
    out.set(points.subarray(3 * i, 3 * i + 3), 6 * i);
    const j = (i + 1) % n;
    out.set(points.subarray(3 * j, 3 * j + 3), 6 * i + 3);
  }
  return out;
}

/** A short stroke across an arc at its middle, in the arc's plane: the mark that tells arcs from lines without colour. */
export function arcTick(path: readonly Vec3[], size: number): number[] {
  const m = Math.floor(path.length / 2);
  const a = path[Math.max(0, m - 1)];
  const p = path[m];
  const b = path[Math.min(path.length - 1, m + 1)];
  if (!a || !p || !b || path.length < 3) return [];
  const chord = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
  // towards the middle of the chord: the direction of the centre
  const inward = [(a[0] + b[0]) / 2 - p[0], (a[1] + b[1]) / 2 - p[1], (a[2] + b[2]) / 2 - p[2]];
  const dot =
    (inward[0]! * chord[0]! + inward[1]! * chord[1]! + inward[2]! * chord[2]!) /
    (chord[0]! ** 2 + chord[1]! ** 2 + chord[2]! ** 2 || 1);
  const d = inward.map((x, i) => x - dot * chord[i]!);
  const length = Math.hypot(...d) || 1;
  const u = d.map((x) => (x / length) * size);
  return [p[0] - u[0]!, p[1] - u[1]!, p[2] - u[2]!, p[0] + u[0]!, p[1] + u[1]!, p[2] + u[2]!];
}

export function drawingOf(pieces: readonly DrawnPiece[], tick: number): Drawing {
  const parts: Record<keyof Drawing, number[]> = {
    line: [],
    arc: [],
    free: [],
    off: [],
    assumed: [],
    ends: [],
  };
  for (const piece of pieces) {
    // An ellipse is drawn as arcs are: a smooth curve that means something, with two strokes across it.
    const into = !piece.on ? "off" : piece.kind === "ellipse" ? "arc" : piece.kind;
    for (const path of piece.unseen?.length ? (piece.seen ?? []) : [piece.path]) parts[into].push(...segmentsOf(path));
    for (const path of piece.unseen ?? []) parts[piece.on ? "assumed" : "off"].push(...segmentsOf(path));
    if (piece.kind === "arc" && piece.on) parts.arc.push(...arcTick(piece.path, tick));
    if (piece.kind === "ellipse" && piece.on) {
      const third = Math.floor(piece.path.length / 3);
      parts.arc.push(...arcTick(piece.path.slice(0, 2 * third), tick), ...arcTick(piece.path.slice(third), tick));
    }
    const first = piece.path[0];
    const last = piece.path[piece.path.length - 1];
    if (piece.kind === "line" && piece.on && first && last) parts.ends.push(...first, ...last);
  }
  return {
    line: new Float32Array(parts.line),
    arc: new Float32Array(parts.arc),
    free: new Float32Array(parts.free),
    off: new Float32Array(parts.off),
    assumed: new Float32Array(parts.assumed),
    ends: new Float32Array(parts.ends),
  };
}
