/** Parts that go together with one: on its axis, of its size, of its kind. No React. */
import type { Vec3 } from "../api/build";
import type { FaceFacts } from "../api/client";
import type { EdgeFacts } from "./useBorders";

const SAME_MM = 1e-3;
const SAME_TURN = 1e-5; // sine of the angle between two axes

interface Axis {
  at: Vec3;
  along: Vec3;
}

const minus = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const cross = (a: Vec3, b: Vec3): Vec3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const size = (a: Vec3) => Math.hypot(...a);

function sameAxis(a: Axis, b: Axis): boolean {
  return size(cross(a.along, b.along)) < SAME_TURN && size(cross(minus(b.at, a.at), a.along)) < SAME_MM;
}

/** The axis of a face of revolution, or of a round edge; a plane's normal is none. */
export function axisOf(part: FaceFacts | EdgeFacts): Axis | null {
  if (part.kind === "plane" || part.kind === "line" || !part.origin || !part.axis) return null;
  return { at: part.origin as Vec3, along: part.axis as Vec3 };
}

const places = <P>(parts: readonly P[], fits: (part: P) => boolean) => parts.flatMap((p, k) => (fits(p) ? [k] : []));

/** Places of all faces, or edges, that share the axis of one. */
export function coaxial<P extends FaceFacts | EdgeFacts>(parts: readonly P[], as: P): number[] {
  const axis = axisOf(as);
  if (!axis) return [];
  return places(parts, (p) => {
    const own = axisOf(p);
    return own !== null && sameAxis(axis, own) && !("smooth" in p && p.smooth);
  });
}

/** Places of the sharp edges that are of the same curve and size as one. */
export function edgesOfSize(edges: readonly EdgeFacts[], as: EdgeFacts): number[] {
  const of = (e: EdgeFacts) => (e.kind === "circle" ? (e.radius ?? 0) : e.length);
  return places(edges, (e) => !e.smooth && e.kind === as.kind && Math.abs(of(e) - of(as)) < SAME_MM);
}

/** Places of the faces of the same size: cylinders of one diameter, on the same side; of other kinds those of one area. */
export function facesOfSize(faces: readonly FaceFacts[], as: FaceFacts): number[] {
  return places(faces, (f) => {
    if (f.kind !== as.kind || f.inside !== as.inside) return false;
    if (as.diameter != null) return Math.abs((f.diameter ?? 0) - as.diameter) < 2 * SAME_MM;
    return Math.abs(f.area - as.area) < 1e-4 * Math.max(1, as.area);
  });
}

/** Places of the faces, or sharp edges, of the same kind: holes and outside cylinders apart. */
export function ofKind<P extends FaceFacts | EdgeFacts>(parts: readonly P[], as: P): number[] {
  return places(
    parts,
    (p) =>
      p.kind === as.kind &&
      !("smooth" in p && p.smooth) &&
      (!("inside" in p) || !("inside" in as) || p.inside === as.inside),
  );
}
