/** Changing the structure of an outline by hand: pieces made another kind, joined or parted. The fit follows on the server. */
import type { SectionOut } from "../api/client";

type Point = [number, number];

export interface TakenPiece {
  id: string;
  kind: "line" | "arc" | "ellipse" | "free";
  start: Point;
  end: Point;
  mid: Point | null;
  points: Point[];
  /** Centre, half-axes and angle of an ellipse; none while one has just been asked for. */
  ellipse?: [number, number, number, number, number] | null;
  taken: boolean;
  /** Nothing of the scan lies under it. */
  assumed: boolean;
}

export interface TakenLoop {
  /** What its profile is called; the step gives one to what has none. */
  name: string;
  closed: boolean;
  full: boolean;
  /** Closed over gaps of the scan. */
  bridged: boolean;
  /** Pieces held to each other on request, by their ids: the first of this loop, the second of any. */
  relations: {
    kind: "parallel" | "square" | "equal radius" | "concentric" | "symmetric" | "turned";
    first: string;
    second: string;
  }[];
  pieces: TakenPiece[];
}

/** A section's loops with every piece, as a structure to change. */
export function structureOf(section: SectionOut): TakenLoop[] {
  let id = 0;
  return section.loops.map((loop) => ({
    name: "",
    closed: loop.closed,
    full: false,
    bridged: loop.bridged ?? false,
    relations: loop.relations,
    pieces: loop.pieces.map((p) => ({
      id: `e${++id}`,
      kind: p.kind,
      start: p.start as Point,
      end: p.end as Point,
      mid: (p.mid ?? null) as Point | null,
      points: p.points as Point[],
      ellipse: p.ellipse ?? null,
      taken: true,
      assumed: p.assumed ?? false,
    })),
  }));
}

const between = (a: Point, b: Point): Point => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];

/** Centre of the circle through three points; none when they lie on one line. */
export function centreOf(a: Point, b: Point, c: Point): Point | null {
  const d = 2 * (a[0] * (b[1] - c[1]) + b[0] * (c[1] - a[1]) + c[0] * (a[1] - b[1]));
  if (Math.abs(d) < 1e-12) return null;
  const [p, q, r] = [a, b, c].map((z) => z[0] * z[0] + z[1] * z[1]) as [number, number, number];
  return [
    (p * (b[1] - c[1]) + q * (c[1] - a[1]) + r * (a[1] - b[1])) / d,
    (p * (c[0] - b[0]) + q * (a[0] - c[0]) + r * (b[0] - a[0])) / d,
  ];
}

/** The point of an arc halfway between two of its points, on the side of the arc. */
function halfway(a: Point, b: Point, centre: Point): Point {
  const m = between(a, b);
  const r = Math.hypot(a[0] - centre[0], a[1] - centre[1]);
  const d = Math.hypot(m[0] - centre[0], m[1] - centre[1]) || 1;
  return [centre[0] + (r * (m[0] - centre[0])) / d, centre[1] + (r * (m[1] - centre[1])) / d];
}

function onPath(p: TakenPiece): Point[] {
  if (p.points.length > 1) return p.points;
  if (!p.mid) return [p.start, between(p.start, p.end), p.end];
  const whole = p.start[0] === p.end[0] && p.start[1] === p.end[1];
  const centre = whole ? between(p.start, p.mid) : centreOf(p.start, p.mid, p.end);
  if (!centre || p.kind !== "arc") return [p.start, p.mid, p.end];
  const angle = (q: Point) => Math.atan2(q[1] - centre[1], q[0] - centre[0]);
  const onward = (to: number) => (((to - angle(p.start)) % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI);
  const end = whole ? 2 * Math.PI : onward(angle(p.end));
  const sweep = !whole && onward(angle(p.mid)) > end ? end - 2 * Math.PI : end;
  const r = Math.hypot(p.start[0] - centre[0], p.start[1] - centre[1]);
  return Array.from({ length: 17 }, (_, k): Point => {
    const t = angle(p.start) + (sweep * k) / 16;
    return k === 0 ? p.start : k === 16 ? p.end : [centre[0] + r * Math.cos(t), centre[1] + r * Math.sin(t)];
  });
}

/** A piece as another kind, through its own middle. */
function as(p: TakenPiece, kind: TakenPiece["kind"]): TakenPiece {
  const path = onPath(p);
  const middle = path[Math.floor(path.length / 2)]!;
  if (kind === "line") return { ...p, kind, mid: null, ellipse: null, points: [] };
  if (kind === "free" || kind === "ellipse") return { ...p, kind, mid: null, ellipse: null, points: path };
  const straight = Math.abs(
    (p.end[0] - p.start[0]) * (middle[1] - p.start[1]) - (p.end[1] - p.start[1]) * (middle[0] - p.start[0]),
  );
  const length = Math.hypot(p.end[0] - p.start[0], p.end[1] - p.start[1]);
  // A line made an arc needs a bow to begin with; the fit finds which way it really goes.
  const bow: Point =
    straight > 1e-6 * length * length
      ? middle
      : [middle[0] - 0.01 * (p.end[1] - p.start[1]), middle[1] + 0.01 * (p.end[0] - p.start[0])];
  return { ...p, kind, mid: bow, ellipse: null, points: [] };
}

function parted(p: TakenPiece): TakenPiece[] {
  const path = onPath(p);
  const at = path[Math.floor(path.length / 2)]!;
  if (p.kind === "free" || p.kind === "ellipse") {
    const k = Math.floor(path.length / 2);
    return [
      { ...p, end: at, points: path.slice(0, k + 1) },
      { ...p, start: at, points: path.slice(k) },
    ];
  }
  const centre = p.mid ? centreOf(p.start, p.mid, p.end) : null;
  const mid = (a: Point, b: Point) => (centre ? halfway(a, b, centre) : null);
  return [
    { ...p, end: at, mid: mid(p.start, at) },
    { ...p, start: at, mid: mid(at, p.end) },
  ];
}

function joined(a: TakenPiece, b: TakenPiece): TakenPiece {
  const path = [...onPath(a), ...onPath(b).slice(1)];
  const size = (p: TakenPiece) => Math.hypot(p.end[0] - p.start[0], p.end[1] - p.start[1]);
  const kind = size(a) >= size(b) ? a.kind : b.kind;
  const whole: TakenPiece = {
    ...a,
    kind: "free",
    end: b.end,
    mid: null,
    ellipse: null,
    points: path,
    assumed: a.assumed && b.assumed,
  };
  return as(whole, kind);
}

export type PieceEdit = "line" | "arc" | "ellipse" | "free" | "part" | "join" | "full";

function changed(l: TakenLoop, piece: number, what: PieceEdit): TakenLoop {
  const p = l.pieces[piece]!;
  if (what === "full") {
    const centre = p.ellipse ? ([p.ellipse[0], p.ellipse[1]] as Point) : p.mid && centreOf(p.start, p.mid, p.end);
    if (!centre) return l;
    const mid: Point = [2 * centre[0] - p.start[0], 2 * centre[1] - p.start[1]];
    return { ...l, closed: true, full: true, relations: [], pieces: [{ ...p, end: p.start, mid }] };
  }
  if (what === "part") return { ...l, pieces: l.pieces.flatMap((q, j) => (j === piece ? parted(q) : [q])) };
  if (what === "join") {
    const next = (piece + 1) % l.pieces.length;
    if (l.pieces.length < 2 || (next === 0 && !l.closed)) return l;
    const one = joined(p, l.pieces[next]!);
    return { ...l, pieces: l.pieces.map((q, j) => (j === piece ? one : q)).filter((_, j) => j !== next) };
  }
  return { ...l, pieces: l.pieces.map((q, j) => (j === piece ? as(q, what) : q)) };
}

/** The loops with one piece changed; ids are given anew in order. What was held to the changed loop's pieces is let go; elsewhere
 * it follows their names. */
export function edited(loops: TakenLoop[], loop: number, piece: number, what: PieceEdit): TakenLoop[] {
  let id = 0;
  const names = new Map<string, string>();
  const named = loops
    .map((l, i) => (i === loop ? changed(l, piece, what) : l))
    .map((l, i) => ({
      ...l,
      pieces: l.pieces.map((q) => {
        const now = `e${++id}`;
        if (i !== loop) names.set(q.id, now);
        return { ...q, id: now };
      }),
    }));
  return named.map((l) => ({
    ...l,
    relations: l.relations.flatMap((r) => {
      const [first, second] = [names.get(r.first), names.get(r.second)];
      return first && second ? [{ ...r, first, second }] : [];
    }),
  }));
}
