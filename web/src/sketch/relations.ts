/** Which relations and sizes can be asked of what is chosen, in the order that the server wants them. No React. */
import { type Act, at, type Entity, endsOf, gap, type Kept } from "./drawing";

export type RelationKind = Extract<Act, { act: "relate" }>["kind"];
export type SizeKind = Extract<Act, { act: "size" }>["kind"];

/** Our words for them, and what they say. */
export const RELATIONS: Record<RelationKind, { word: string; help: string }> = {
  coincident: { word: "same place", help: "points in one place" },
  horizontal: { word: "level", help: "along the first axis" },
  vertical: { word: "upright", help: "along the second axis" },
  parallel: { word: "parallel", help: "lines that go one way" },
  perpendicular: { word: "square", help: "lines at a quarter turn" },
  tangent: { word: "touch", help: "curves that touch, or go on smoothly" },
  "curvature-continuous": { word: "bend alike", help: "a spline that goes on with the same curvature" },
  collinear: { word: "in line", help: "lines or points on one line" },
  concentric: { word: "one centre", help: "circles and arcs about one centre" },
  equal: { word: "equal", help: "one length, or one radius" },
  midpoint: { word: "half-way", help: "a point in the middle of a line or arc, or of two points" },
  symmetric: { word: "mirrored", help: "two alike on either side of a line or point" },
  "on-curve": { word: "on it", help: "a point on a line or curve" },
  fixed: { word: "fixed", help: "stays where it is drawn" },
  angle: { word: "angle", help: "two lines at an angle" },
};

const ROUND = ["circle", "arc"];

/** Every order in which these could be meant is reduced to the one that the server takes; none where it makes no sense. */
export function relationOf(kept: Kept, chosen: readonly string[], kind: RelationKind): string[] | null {
  const kinds = chosen.map((id) => kept.entities?.[id]?.kind);
  const all = (...allowed: (Entity["kind"] | undefined)[]) =>
    kinds.length > 0 && kinds.every((k) => allowed.includes(k));
  const points = chosen.filter((_, i) => kinds[i] === "point");
  const curves = chosen.filter((_, i) => kinds[i] !== "point");
  const n = chosen.length;
  switch (kind) {
    case "coincident":
      return n >= 2 && all("point") ? [...chosen] : null;
    case "horizontal":
    case "vertical":
      return all("line") || (n >= 2 && all("point")) ? [...chosen] : null;
    case "parallel":
      return n >= 2 && all("line") ? [...chosen] : null;
    case "perpendicular":
      return n === 2 && all("line") ? [...chosen] : null;
    case "collinear":
      return (n >= 2 && all("line")) || (n >= 3 && all("point")) ? [...chosen] : null;
    case "tangent":
      return n === 2 && points.length === 0 && !all("line") ? [...chosen] : null;
    case "curvature-continuous":
      return n === 2 && kinds.includes("spline") && kinds.every((k) => k === "spline" || k === "line" || k === "arc")
        ? [...chosen]
        : null;
    case "concentric":
      return n >= 2 &&
        curves.length > 0 &&
        kinds.every((k) => k === "point" || k === "ellipse" || ROUND.includes(k ?? ""))
        ? [...chosen]
        : null;
    case "equal":
      return n >= 2 && (all("line") || all("circle", "arc") || all("ellipse")) ? [...chosen] : null;
    case "midpoint":
      if (
        points.length === 1 &&
        curves.length === 1 &&
        ["line", "arc"].includes(kinds.find((k) => k !== "point") ?? "")
      )
        return [points[0]!, curves[0]!];
      return n === 3 && points.length === 3 ? [chosen[2]!, chosen[0]!, chosen[1]!] : null;
    case "symmetric":
      return n === 3 && kinds[0] === kinds[1] && (kinds[2] === "line" || kinds[2] === "point") && kinds[0] !== "spline"
        ? [...chosen]
        : null;
    case "on-curve":
      return points.length === 1 && curves.length === 1 ? [points[0]!, curves[0]!] : null;
    case "fixed":
      return n > 0 ? [...chosen] : null;
    case "angle":
      return null; // it is asked as a size
  }
}

/** Sizes that what is chosen can have, the likeliest first. */
export function sizesOf(
  kept: Kept,
  chosen: readonly string[],
): { kind: SizeKind; of: string[]; supplement?: boolean }[] {
  const kinds = chosen.map((id) => kept.entities?.[id]?.kind);
  const of = [...chosen];
  if (of.length === 1) {
    if (kinds[0] === "line")
      return (["length", "horizontal-distance", "vertical-distance", "angle"] as const).map((kind) => ({ kind, of }));
    if (kinds[0] === "circle") return (["diameter", "radius"] as const).map((kind) => ({ kind, of }));
    if (kinds[0] === "arc") return (["radius", "diameter", "arc-length"] as const).map((kind) => ({ kind, of }));
    return [];
  }
  if (of.length !== 2) return [];
  if (kinds[0] === "line" && kinds[1] === "line") {
    const angle = { kind: "angle" as const, of, supplement: supplementOf(kept, of[0]!, of[1]!) };
    const apart = { kind: "distance" as const, of };
    return nearlyParallel(kept, of[0]!, of[1]!) ? [apart, angle] : [angle, apart];
  }
  if (kinds.includes("spline")) return [];
  if (kinds.includes("line")) return [{ kind: "distance", of: kinds[0] === "line" ? [of[1]!, of[0]!] : of }];
  return (["distance", "horizontal-distance", "vertical-distance"] as const).map((kind) => ({ kind, of }));
}

/** The two that a size is between: of a line's own length, its ends; none of a radius. */
export function sidesOf(kept: Kept, of: readonly string[]): [string, string] | null {
  const sides = of.length === 2 ? of : kept.entities?.[of[0]!]?.kind === "line" ? endsOf(kept, of[0]!) : [];
  return sides.length === 2 ? [sides[0]!, sides[1]!] : null;
}

function wayOf(kept: Kept, line: string): [number, number] {
  const [a, b] = endsOf(kept, line).map((p) => at(kept, p) ?? [0, 0]);
  return [b![0]! - a![0]!, b![1]! - a![1]!];
}

function nearlyParallel(kept: Kept, a: string, b: string): boolean {
  const [u, v] = [wayOf(kept, a), wayOf(kept, b)];
  return Math.abs(u[0] * v[1] - u[1] * v[0]) < 0.03 * Math.hypot(...u) * Math.hypot(...v);
}

/** At a corner the angle inside it is meant: the second line is turned where one ends and the other begins. */
export function supplementOf(kept: Kept, a: string, b: string): boolean {
  const [first, second] = [endsOf(kept, a), endsOf(kept, b)];
  const same = (p: string, q: string) => p === q || gap(at(kept, p) ?? [0, 0], at(kept, q) ?? [1, 1]) < 1e-6;
  return same(first[1]!, second[0]!) || same(first[0]!, second[1]!);
}
