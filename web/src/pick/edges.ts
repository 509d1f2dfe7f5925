/** Edges of bodies under a place on screen. No React. */
import { type Mesh, Vector3 } from "three";
import type { Vec3 } from "../api/build";
import { isKept } from "../clip/clip";
import { awayFromCamera, pickBodies, type StagedBody, stage } from "../view/stage";

export interface EdgeHit {
  body: string;
  key: string;
  /** Place of the edge in the body's list of edges. */
  edge: number;
  point: Vec3;
  distance: number;
  /** Pixels from the pointer, which is at x, y of the page. */
  away: number;
  x: number;
  y: number;
}

export const NEAR_PX = 7;
/** An edge lies on the surface it borders: it is hidden only by what is clearly nearer. */
export const COVER = 0.006;

/** The nearest place on a segment to the pointer on screen, as a share of the way along it, with its distance in pixels. */
export function nearestOnSegment(
  x: number,
  y: number,
  a: { x: number; y: number },
  b: { x: number; y: number },
): { t: number; away: number } {
  const dx = b.x - a.x;
  const dy = b.y - a.y;
  const size = dx * dx + dy * dy;
  const t = size > 0 ? Math.min(1, Math.max(0, ((x - a.x) * dx + (y - a.y) * dy) / size)) : 0;
  return { t, away: Math.hypot(a.x + t * dx - x, a.y + t * dy - y) };
}

/** Half-way along a line on screen is not half-way along it in space: its far half looks shorter. */
export function alongInSpace(seen: number, near: number, far: number): number {
  return (seen * near) / (far + seen * (near - far));
}

const v = new Vector3();

function onScreen(mesh: Mesh, positions: ArrayLike<number>, k: number, box: DOMRect) {
  v.set(positions[3 * k]!, positions[3 * k + 1]!, positions[3 * k + 2]!);
  const { camera } = stage.now!;
  mesh.localToWorld(v).applyMatrix4(camera.matrixWorldInverse);
  const depth = -v.z;
  v.applyMatrix4(camera.projectionMatrix);
  return { x: box.left + (v.x * 0.5 + 0.5) * box.width, y: box.top + (0.5 - v.y * 0.5) * box.height, depth };
}

function hitsOf(b: StagedBody, x: number, y: number, box: DOMRect): EdgeHit[] {
  const { positions, edgeOf } = b.edges;
  const best = new Map<number, EdgeHit>();
  for (let s = 0; s < edgeOf.length; s++) {
    const p = onScreen(b.mesh, positions, 2 * s, box);
    const q = onScreen(b.mesh, positions, 2 * s + 1, box);
    if (p.depth <= 0 || q.depth <= 0) continue; // behind the camera
    if (Math.min(p.x, q.x) > x + NEAR_PX || Math.max(p.x, q.x) < x - NEAR_PX) continue;
    if (Math.min(p.y, q.y) > y + NEAR_PX || Math.max(p.y, q.y) < y - NEAR_PX) continue;
    const { t: seen, away } = nearestOnSegment(x, y, p, q);
    if (away > NEAR_PX) continue;
    const t = alongInSpace(seen, p.depth, q.depth);
    const edge = edgeOf[s]!;
    const known = best.get(edge);
    if (known && known.away <= away) continue;
    const at = [0, 1, 2].map((i) => positions[6 * s + i]! + t * (positions[6 * s + 3 + i]! - positions[6 * s + i]!));
    const point = b.mesh.localToWorld(new Vector3(...(at as Vec3))).toArray();
    if (!isKept(point)) continue;
    best.set(edge, { body: b.id, key: b.key, edge, point, distance: awayFromCamera(point), away, x, y });
  }
  return [...best.values()];
}

/** Edges under a place on screen, the one meant first: what is seen before what is hidden, then by nearness to the pointer. */
export function pickEdges(x: number, y: number, all = false): EdgeHit[] {
  if (!stage.now) return [];
  const box = stage.now.canvas.getBoundingClientRect();
  const hits = [...stage.bodies.values()].flatMap((b) => hitsOf(b, x, y, box));
  const front = pickBodies(x, y)[0]?.distance ?? Number.POSITIVE_INFINITY;
  const seen = hits.filter((h) => h.distance <= front * (1 + COVER));
  const order = (a: EdgeHit, b: EdgeHit) => a.away - b.away || a.distance - b.distance;
  if (!all) return seen.sort(order);
  return [...seen.sort(order), ...hits.filter((h) => !seen.includes(h)).sort((a, b) => a.distance - b.distance)];
}
