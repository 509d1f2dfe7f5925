/** Edges and faces of bodies inside a shape drawn on screen. No React. */

import { Vector3 } from "three";
import { isKept } from "../clip/clip";
import { insidePolygon } from "../view/flat";
import type { Spot } from "../view/lasso";
import { awayFromCamera, pickBodies, type StagedBody, stage } from "../view/stage";

export interface Within {
  /** All of it has to lie inside, or any of it. */
  whole: boolean;
  /** What is hidden counts as well. */
  through: boolean;
}

export interface PartHit {
  body: string;
  key: string;
  /** Place of the edge or face in the body's list of them. */
  at: number;
  point: [number, number, number];
}

const COVER = 0.006;
const SAMPLES = 5;

const v = new Vector3();

/** Where a place of a body is seen, in pixels of the page; none behind the camera. */
function seenAt(b: StagedBody, p: ArrayLike<number>, k: number, box: DOMRect): Spot | null {
  const { camera } = stage.now!;
  v.set(p[3 * k]!, p[3 * k + 1]!, p[3 * k + 2]!);
  b.mesh.localToWorld(v).applyMatrix4(camera.matrixWorldInverse);
  if (v.z >= 0) return null;
  v.applyMatrix4(camera.projectionMatrix);
  return { x: box.left + (v.x * 0.5 + 0.5) * box.width, y: box.top + (0.5 - v.y * 0.5) * box.height };
}

/** Whether nothing clearly nearer stands before a place of a body. */
function isSeen(b: StagedBody, p: ArrayLike<number>, k: number, box: DOMRect): boolean {
  const spot = seenAt(b, p, k, box);
  if (!spot) return false;
  const own = awayFromCamera(b.mesh.localToWorld(new Vector3(p[3 * k]!, p[3 * k + 1]!, p[3 * k + 2]!)).toArray());
  const front = pickBodies(spot.x, spot.y)[0]?.distance ?? Number.POSITIVE_INFINITY;
  return own <= front * (1 + COVER);
}

/** Parts of one body: the places that each has, by its number, judged by how many of them lie inside. */
/** A place of a body in the world. */
const spotOf = (b: StagedBody, p: ArrayLike<number>, k: number): [number, number, number] =>
  b.mesh.localToWorld(new Vector3(p[3 * k]!, p[3 * k + 1]!, p[3 * k + 2]!)).toArray();

function within(
  b: StagedBody,
  positions: ArrayLike<number>,
  placesOf: Map<number, number[]>,
  polygon: readonly Spot[],
  how: Within,
  box: DOMRect,
): PartHit[] {
  const out: PartHit[] = [];
  for (const [at, places] of placesOf) {
    const hits = places.filter((k) => {
      const s = seenAt(b, positions, k, box);
      return s !== null && insidePolygon(s.x, s.y, polygon) && isKept(spotOf(b, positions, k));
    });
    if (hits.length === 0 || (how.whole && hits.length < places.length)) continue;
    const step = Math.max(1, Math.floor(hits.length / SAMPLES));
    const shown = how.through || hits.some((k, i) => i % step === 0 && isSeen(b, positions, k, box));
    if (!shown) continue;
    const k = hits[hits.length >> 1]!;
    out.push({ body: b.id, key: b.key, at, point: spotOf(b, positions, k) });
  }
  return out;
}

function grouped(count: number, numberOf: (k: number) => number, placesOf: (k: number) => number[]) {
  const out = new Map<number, number[]>();
  for (let k = 0; k < count; k++) {
    const at = numberOf(k);
    const list = out.get(at);
    if (list) list.push(...placesOf(k));
    else out.set(at, placesOf(k));
  }
  return out;
}

/** Edges inside a polygon drawn on the page. */
export function edgesInside(polygon: readonly Spot[], how: Within): PartHit[] {
  if (!stage.now) return [];
  const box = stage.now.canvas.getBoundingClientRect();
  return [...stage.bodies.values()].flatMap((b) => {
    const { positions, edgeOf } = b.edges;
    const ends = grouped(
      edgeOf.length,
      (s) => edgeOf[s]!,
      (s) => [2 * s, 2 * s + 1],
    );
    return within(b, positions, ends, polygon, how, box);
  });
}

/** Bodies inside a polygon drawn on the page: by their edges, and where they have none by their corners. */
export function bodiesInside(polygon: readonly Spot[], how: Within): PartHit[] {
  if (!stage.now) return [];
  const box = stage.now.canvas.getBoundingClientRect();
  return [...stage.bodies.values()].flatMap((b) => {
    const edges = b.edges.edgeOf.length > 0;
    const positions = edges ? b.edges.positions : b.mesh.geometry.getAttribute("position").array;
    const places = Array.from({ length: positions.length / 3 }, (_, k) => k);
    return within(b, positions, new Map([[0, places]]), polygon, how, box);
  });
}

/** Faces inside a polygon drawn on the page. */
export function facesInside(polygon: readonly Spot[], how: Within): PartHit[] {
  if (!stage.now) return [];
  const box = stage.now.canvas.getBoundingClientRect();
  return [...stage.bodies.values()].flatMap((b) => {
    const index = b.mesh.geometry.index;
    const positions = b.mesh.geometry.getAttribute("position").array;
    if (!index) return [];
    const corners = grouped(
      b.faces.length,
      (t) => b.faces[t]!,
      (t) => [0, 1, 2].map((i) => index.getX(3 * t + i)),
    );
    return within(b, positions, corners, polygon, how, box);
  });
}
