/** Construction geometry and measurements as the steps have found them, for drawing and for lists. No React. */
import type { StepFacts, StepState, Vec3 } from "../api/build";
import { type FactsOf, placeFacts, factsOf as told } from "../api/facts";
import { area as areaSaid, inchFraction, length, type Unit, volume as volumeSaid } from "../units";

export interface Placed {
  id: string;
  name: string;
  shape: "plane" | "axis" | "point";
  origin: Vec3;
  direction: Vec3;
  reach: number;
  /** Only what a step that is being prepared would make. */
  passing: boolean;
}

export interface Measured {
  id: string;
  name: string;
  text: string;
  from: Vec3 | null;
  to: Vec3 | null;
  passing: boolean;
}

/** A curve in space, as places along it. */
export interface Curved {
  id: string;
  line: Vec3[];
  passing: boolean;
}

interface Row {
  id: string;
  name: string;
  facts: StepFacts | null;
  passing: boolean;
}

/** Facts of finished steps, and over them those of steps being prepared. */
export function factsOf(steps: StepState[], passing: Record<string, StepFacts>, asOf: string | null): Row[] {
  const upto = asOf === null ? steps.length : steps.findIndex((s) => s.id === asOf) + 1;
  const known = steps
    .slice(0, upto)
    .filter((s) => s.status === "ok" && !(s.id in passing))
    .map((s) => ({ id: s.id, name: s.name, facts: s.facts, passing: false }));
  const name = (id: string) => steps.find((s) => s.id === id)?.name ?? "";
  return [...known, ...Object.entries(passing).map(([id, facts]) => ({ id, name: name(id), facts, passing: true }))];
}

export function placesOf(rows: Row[]): Placed[] {
  return rows.flatMap(({ id, name, facts, passing }) => {
    const place = placeFacts(facts);
    if (!place) return [];
    const { shape, origin, direction, reach } = place;
    return [{ id, name, passing, shape, origin, direction: direction ?? ([0, 0, 1] as Vec3), reach: reach || 0 }];
  });
}

const lengths = ["distance", "diameter", "thickness", "length", "pitch"] as const;
const U95 = 2;

/** The figures of a measurement, the main one first: [what, figure, its expanded uncertainty or nothing]. */
export function figuresOf(f: FactsOf<"measurement">, unit: Unit): [string, string, string][] {
  const rows: [string, string, string][] = [];
  const pm = (u: unknown) => (typeof u === "number" ? `± ${length(U95 * u, unit, 1)}` : "");
  for (const name of lengths) {
    const mm = f[name];
    if (typeof mm === "number") {
      rows.push([name, length(mm, unit, 1), pm(name === "diameter" ? f.u_diameter : f.u)]);
      const fraction = unit === "inch" ? inchFraction(mm) : null;
      if (fraction)
        rows.push([
          "nearest fraction",
          fraction.text,
          `${fraction.rest < 0 ? "−" : "+"}${length(Math.abs(fraction.rest), unit)}`,
        ]);
    }
  }
  if (typeof f.radius === "number") rows.push(["radius", length(f.radius, unit, 1), pm(f.u)]);
  if (typeof f.angle === "number")
    rows.push([
      "angle",
      `${f.angle.toFixed(3)}°`,
      typeof f.u_angle === "number" ? `± ${(U95 * f.u_angle).toFixed(3)}°` : "",
    ]);
  for (const axis of ["dx", "dy", "dz"] as const) {
    const mm = f[axis];
    if (typeof mm === "number") rows.push([`along ${axis[1]}`, length(mm, unit, 1), ""]);
  }
  if (typeof f.area === "number") rows.push(["area", areaSaid(f.area, unit), ""]);
  if (typeof f.volume === "number") rows.push(["volume", volumeSaid(f.volume, unit), ""]);
  if (typeof f.turns === "number") rows.push(["turns", f.turns.toFixed(2), ""]);
  return rows;
}

/** The main figure in one line. */
export const mainFigure = (f: FactsOf<"measurement">, unit: Unit): string => {
  const first = figuresOf(f, unit)[0];
  if (!first) return "";
  return `${first[0] === "diameter" ? "Ø " : ""}${first[1]}${first[2] ? ` ${first[2]}` : ""}`;
};

export function measuresOf(rows: Row[], unit: Unit): Measured[] {
  return rows.flatMap(({ id, name, facts, passing }) => {
    const found = told(facts, "measurement");
    if (!found) return [];
    return [{ id, name, passing, text: mainFigure(found, unit), from: found.start ?? null, to: found.end ?? null }];
  });
}

export function curvesOf(rows: Row[]): Curved[] {
  return rows.flatMap(({ id, facts, passing }) => {
    const found = told(facts, "curve");
    return found ? [{ id, passing, line: found.drawn as Vec3[] }] : [];
  });
}

/** Corners of the square a plane is drawn as. */
export function planeCorners(p: Placed): Vec3[] {
  const n = p.direction;
  const k = [0, 1, 2].reduce((best, i) => (Math.abs(n[i]!) < Math.abs(n[best]!) ? i : best), 0);
  const e: Vec3 = [0, 0, 0];
  e[k] = 1;
  const cross = (a: Vec3, b: Vec3): Vec3 => [
    a[1] * b[2] - a[2] * b[1],
    a[2] * b[0] - a[0] * b[2],
    a[0] * b[1] - a[1] * b[0],
  ];
  const u = cross(n, e);
  const size = Math.hypot(...u) || 1;
  const v = cross(n, u);
  const r = p.reach || 10;
  return [
    [1, 1],
    [-1, 1],
    [-1, -1],
    [1, -1],
  ].map(([a, b]) => [0, 1, 2].map((i) => p.origin[i]! + (r * (a! * u[i]! + b! * v[i]!)) / size) as Vec3);
}
