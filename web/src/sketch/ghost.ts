/** What a shape would look like if the pointer stayed where it is. No React, and no more exact than an eye needs. */
import { gap, type XY } from "./drawing";

function ring(m: XY, r: number, from = 0, to = 2 * Math.PI): XY[] {
  const count = Math.max(12, Math.ceil((Math.abs(to - from) / Math.PI) * 40));
  return Array.from({ length: count + 1 }, (_, k) => {
    const a = from + ((to - from) * k) / count;
    return [m[0] + r * Math.cos(a), m[1] + r * Math.sin(a)];
  });
}

export function circleThrough(a: XY, b: XY, c: XY): { m: XY; r: number } | null {
  const d = 2 * (a[0] * (b[1] - c[1]) + b[0] * (c[1] - a[1]) + c[0] * (a[1] - b[1]));
  if (Math.abs(d) < 1e-9) return null;
  const s = (p: XY) => p[0] * p[0] + p[1] * p[1];
  const m: XY = [
    (s(a) * (b[1] - c[1]) + s(b) * (c[1] - a[1]) + s(c) * (a[1] - b[1])) / d,
    (s(a) * (c[0] - b[0]) + s(b) * (a[0] - c[0]) + s(c) * (b[0] - a[0])) / d,
  ];
  return { m, r: gap(m, a) };
}

const bearing = (m: XY, p: XY) => Math.atan2(p[1] - m[1], p[0] - m[0]);
const turn = (a: number) => ((a % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI);

/** From a over c to b. */
function arcThrough(a: XY, b: XY, c: XY): XY[] {
  const found = circleThrough(a, c, b);
  if (!found) return [a, c, b];
  const { m, r } = found;
  const from = bearing(m, a);
  const ahead = turn(bearing(m, c) - from) < turn(bearing(m, b) - from);
  return ring(m, r, from, from + (ahead ? turn(bearing(m, b) - from) : turn(bearing(m, b) - from) - 2 * Math.PI));
}

function box(a: XY, b: XY): XY[] {
  return [a, [b[0], a[1]], b, [a[0], b[1]], a];
}

function capsule(a: XY, b: XY, r: number): XY[] {
  const along = bearing(a, b);
  const first = ring(b, r, along - Math.PI / 2, along + Math.PI / 2);
  const second = ring(a, r, along + Math.PI / 2, along + 1.5 * Math.PI);
  return [...first, ...second, first[0]!];
}

/** Leaves `a` the way of `way` and ends in `b`. */
export function tangentArc(a: XY, way: XY, b: XY): XY[] {
  const n: XY = [-way[1], way[0]];
  const off = (b[0] - a[0]) * n[0] + (b[1] - a[1]) * n[1];
  if (Math.abs(off) < 1e-9) return [a, b];
  const r = gap(a, b) ** 2 / (2 * off);
  const m: XY = [a[0] + r * n[0], a[1] + r * n[1]];
  const from = bearing(m, a);
  const over = r > 0 ? turn(bearing(m, b) - from) : -turn(from - bearing(m, b));
  return ring(m, Math.abs(r), from, from + over);
}

/** Path of what is at hand. `places`: pointed at so far, then where the pointer is. */
export function ghostOf(tool: string, way: string, places: readonly XY[], sides = 6): XY[] {
  const [a, b, c, d] = places;
  if (!a || !b) return [];
  const key = `${tool}:${way}`;
  switch (key) {
    case "rectangle:corner":
      return box(a, b);
    case "rectangle:centre":
      return box([2 * a[0] - b[0], 2 * a[1] - b[1]], b);
    case "rectangle:three": {
      if (!c) return [a, b];
      const long = gap(a, b) || 1;
      const n: XY = [-(b[1] - a[1]) / long, (b[0] - a[0]) / long];
      const h = (c[0] - a[0]) * n[0] + (c[1] - a[1]) * n[1];
      return [a, b, [b[0] + h * n[0], b[1] + h * n[1]], [a[0] + h * n[0], a[1] + h * n[1]], a];
    }
    case "circle:centre":
      return ring(a, gap(a, b));
    case "circle:two":
      return ring([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2], gap(a, b) / 2);
    case "circle:three":
    case "circle:touch2":
    case "circle:touch3": {
      const found = c && circleThrough(a, b, c);
      return found ? ring(found.m, found.r) : [a, b];
    }
    case "arc:three":
      return c ? arcThrough(a, b, c) : [a, b];
    case "arc:centre": {
      if (!c) return [a, b];
      const from = bearing(a, b);
      const over = turn(bearing(a, c) - from);
      return ring(a, gap(a, b), from, from + (over > Math.PI ? over - 2 * Math.PI : over));
    }
    case "slot:straight": {
      if (!c) return [a, b];
      const long = gap(a, b) || 1;
      return capsule(a, b, Math.abs((c[0] - a[0]) * (b[1] - a[1]) - (c[1] - a[1]) * (b[0] - a[0])) / long);
    }
    case "slot:arc": {
      const big = gap(a, b);
      const from = bearing(a, b);
      const to = from + (c ? turn(bearing(a, c) - from) : 0);
      if (!d) return c ? ring(a, big, from, to) : [a, b];
      const r = Math.abs(gap(a, d) - big);
      return [...ring(a, big + r, from, to), ...ring(a, Math.max(big - r, 0), to, from)];
    }
    case "polygon:corner": {
      const from = bearing(a, b);
      return Array.from({ length: sides + 1 }, (_, k) => {
        const t = from + (2 * Math.PI * k) / sides;
        return [a[0] + gap(a, b) * Math.cos(t), a[1] + gap(a, b) * Math.sin(t)];
      });
    }
    case "ellipse:centre": {
      if (!c) return [a, b];
      const long = gap(a, b) || 1;
      const u: XY = [(b[0] - a[0]) / long, (b[1] - a[1]) / long];
      const x = ((c[0] - a[0]) * u[0] + (c[1] - a[1]) * u[1]) / long;
      const y = Math.abs((c[1] - a[1]) * u[0] - (c[0] - a[0]) * u[1]);
      const minor = Math.abs(x) < 1 ? y / Math.sqrt(1 - x * x) : y;
      return ring([0, 0], 1).map(([p, q]) => [
        a[0] + long * p * u[0] - minor * q * u[1],
        a[1] + long * p * u[1] + minor * q * u[0],
      ]);
    }
    default:
      return [...places];
  }
}
