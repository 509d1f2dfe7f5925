/** Pictures' marks in words and figures: no React, no requests. */
import type { MarkKind, MarkOut } from "../api/client";
import { bare } from "../desk/facts";
import { length, type Unit } from "../units";
import type { PhotoTool, Point } from "./store";

interface Kind {
  title: string;
  hint: string;
  /** Points that finish it; none: as many as wanted, ended by Done. */
  points: number | null;
}

export const KINDS: Record<Exclude<PhotoTool, "look" | "corners">, Kind> = {
  scale: { title: "Known length", hint: "Click both ends of a length you know", points: 2 },
  check: { title: "Second length", hint: "Click both ends of another length you know", points: 2 },
  distance: { title: "Distance", hint: "Click both ends", points: 2 },
  angle: { title: "Angle", hint: "Click the corner, then a point on each leg", points: 3 },
  circle: { title: "Circle", hint: "Click three points of its rim", points: 3 },
  repeat: {
    title: "Repeats",
    hint: "Click the first and the last of the repeats, at the same place of each",
    points: 2,
  },
  count: { title: "Count", hint: "Click each one; Done when all are marked", points: null },
  trace: { title: "Outline", hint: "Click the outline's corners in order; Done at the end", points: null },
  stroke: { title: "Pen", hint: "Draw with the pointer held down", points: null },
  pin: { title: "Pin a reading", hint: "Click where it was measured", points: 1 },
  dimension: { title: "Dimension", hint: "Click where the drawing states it", points: 1 },
};

export const MEASURES: MarkKind[] = ["distance", "angle", "circle", "repeat", "count", "trace"];

/** Middle of the circle through three points; none when they lie on a line. */
export function middleOf(a: Point, b: Point, c: Point): Point | null {
  const d = 2 * (a[0] * (b[1] - c[1]) + b[0] * (c[1] - a[1]) + c[0] * (a[1] - b[1]));
  if (Math.abs(d) < 1e-6) return null;
  const [p, q, r] = [a, b, c].map(([x, y]) => x * x + y * y) as [number, number, number];
  return [
    (p * (b[1] - c[1]) + q * (c[1] - a[1]) + r * (a[1] - b[1])) / d,
    (p * (c[0] - b[0]) + q * (a[0] - c[0]) + r * (b[0] - a[0])) / d,
  ];
}

/** What a mark measures, with its expanded uncertainty. */
export function figureOf(kind: MarkKind, m: MarkOut | undefined, unit: Unit): string {
  if (!m) return "…";
  if (m.dimension === "number") return `${m.value} marked`;
  if (m.value === null) return m.problem ? "not found" : "needs a scale";
  const u = 2 * (m.u ?? 0);
  if (m.dimension === "angle") return `${m.value.toFixed(2)}° ± ${u.toFixed(2)}`;
  const what = kind === "circle" ? "Ø " : kind === "repeat" ? "pitch " : "";
  return `${what}${length(m.value, unit, 1)} ± ${bare(u, unit, 1)}`;
}

/** What the last repeat says of the steps it was held against. */
export function driftOf(m: MarkOut, unit: Unit): { text: string; far: boolean } | null {
  if (m.drift === null || m.u_drift === null) return null;
  const far = Math.abs(m.drift) > 2 * m.u_drift;
  return { text: `drift at the last one ${length(m.drift, unit, 1)} ± ${bare(2 * m.u_drift, unit, 1)}`, far };
}

/** What the next click of an outline is. */
export function traceHint(points: number, bends: number[], round: boolean): string {
  if (points === 0) return KINDS.trace.hint;
  if (round) return "Click a point on the arc, about its middle";
  if (bends.includes(points - 1)) return "Click the corner where the arc ends, or close it";
  return "Click the next corner";
}

/** An outline as the path of an SVG: straight sides, and arcs over the points that `bends` names. */
export function outlinePath(points: Point[], bends: number[], closed: boolean): string {
  const bent = new Set(bends);
  const n = points.length;
  const first = points.findIndex((_, k) => !bent.has(k));
  if (first < 0) return "";
  let from = points[first]!;
  let text = `M${from.join()}`;
  for (let k = 1; k <= n; k++) {
    const at = (first + k) % n;
    if (bent.has(at) || (at <= first && !closed)) continue;
    const over = (at - 1 + n) % n;
    const to = points[at]!;
    const via = bent.has(over) && n > 1 ? points[over]! : null;
    const middle = via && middleOf(from, via, to);
    if (via && middle) {
      const side = (p: Point) => (to[0] - from[0]) * (p[1] - from[1]) - (to[1] - from[1]) * (p[0] - from[0]);
      const r = Math.hypot(via[0] - middle[0], via[1] - middle[1]);
      // More than half a turn when the middle lies on the arc's own side of its chord.
      const large = side(via) * side(middle) > 0 ? 1 : 0;
      text += `A${r},${r} 0 ${large} ${side(via) < 0 ? 1 : 0} ${to.join()}`;
    } else text += `L${to.join()}`;
    from = to;
  }
  return text;
}

/** An outline's corners in mm about its middle, y upwards, as a sketch on a plane takes them. */
export function outlineMm(points: Point[], mmPerPx: number): Point[] {
  const xs = points.map((p) => p[0]);
  const ys = points.map((p) => p[1]);
  const x = (Math.min(...xs) + Math.max(...xs)) / 2;
  const y = (Math.min(...ys) + Math.max(...ys)) / 2;
  return points.map((p) => [Number(((p[0] - x) * mmPerPx).toFixed(4)), Number(((y - p[1]) * mmPerPx).toFixed(4))]);
}
