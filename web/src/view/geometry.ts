/** Geometry lives outside React: fetched once per product key, disposed when nothing shows it any more. */
import { BufferAttribute, BufferGeometry, Mesh } from "three";
import { acceleratedRaycast, MeshBVH, type SerializedBVH } from "three-mesh-bvh";
import type { Vec3 } from "../api/build";
import { type Buffers, bytesOf, parseBuffers } from "./buffers";
import BvhWorker from "./bvh.worker?worker";
import { readReduced } from "./reduced";

Mesh.prototype.raycast = acceleratedRaycast;

export interface ScanGeometry {
  kind: "scan";
  surface: BufferGeometry;
  origin: [number, number, number];
}
export interface BodyGeometry {
  kind: "body";
  surface: BufferGeometry;
  edges: BufferGeometry;
  origin: [number, number, number];
  /** Face number of each triangle. */
  faces: Uint32Array;
  /** Edge number of each segment of `edges`. */
  edgeOf: Uint32Array;
}
type Entry = { geometry: Promise<ScanGeometry | BodyGeometry>; users: number };

const cache = new Map<string, Entry>();

async function fetched(url: string): Promise<ArrayBuffer> {
  const answer = await fetch(url);
  if (!answer.ok) throw new Error(`The view of this product could not be loaded (${answer.status}).`);
  return answer.arrayBuffer();
}

function growTree(surface: BufferGeometry) {
  const worker = new BvhWorker();
  worker.onmessage = (e: MessageEvent<SerializedBVH>) => {
    surface.boundsTree = MeshBVH.deserialize(e.data, surface, { setIndex: false });
    worker.terminate();
  };
  worker.postMessage({ positions: surface.getAttribute("position").array, indices: surface.index?.array });
}

function surfaceOf(buffers: Buffers): BufferGeometry {
  const surface = new BufferGeometry();
  surface.setAttribute("position", new BufferAttribute(buffers.f4("positions"), 3));
  surface.setIndex(new BufferAttribute(buffers.u4("indices"), 1));
  surface.computeVertexNormals();
  surface.computeBoundingBox();
  return surface;
}

async function load(url: string, kind: "scan" | "body"): Promise<ScanGeometry | BodyGeometry> {
  const buffers = parseBuffers(await fetched(url));
  const surface = surfaceOf(buffers);
  if (kind === "scan") {
    surface.userData.reduced = readReduced(buffers);
    growTree(surface);
    return { kind, surface, origin: buffers.origin };
  }
  return bodyOf(buffers, surface);
}

function bodyOf(buffers: Buffers, surface: BufferGeometry): BodyGeometry {
  const edges = new BufferGeometry();
  edges.setAttribute("position", new BufferAttribute(buffers.f4("edges"), 3));
  return {
    kind: "body",
    surface,
    edges,
    origin: buffers.origin,
    faces: buffers.u4("faces"),
    // A body that an earlier version has kept has no edges to pick; the next build gives it some.
    edgeOf: buffers.has("edge_of") ? buffers.u4("edge_of") : new Uint32Array(),
  };
}

/** A body whose buffer is at hand already; whoever asks disposes of it. */
export function bodyFrom(text: string): BodyGeometry {
  const buffers = parseBuffers(bytesOf(text));
  return bodyOf(buffers, surfaceOf(buffers));
}

/** Triangles with a figure at every corner, such as how far it moved. */
export async function mapFrom(url: string): Promise<{ surface: BufferGeometry; origin: Vec3; values: Float32Array }> {
  const buffers = parseBuffers(await fetched(url));
  return { surface: surfaceOf(buffers), origin: buffers.origin, values: buffers.f4("deviation") };
}

export function acquire(url: string, kind: "scan" | "body"): Promise<ScanGeometry | BodyGeometry> {
  let entry = cache.get(url);
  if (!entry) {
    entry = { geometry: load(url, kind), users: 0 };
    // A failed load must not stay: the next mount tries again.
    entry.geometry.catch(() => cache.delete(url));
    cache.set(url, entry);
  }
  entry.users++;
  return entry.geometry;
}

export function release(url: string) {
  const entry = cache.get(url);
  if (!entry || --entry.users > 0) return;
  // Undo brings a product back at once: keep it a little before giving it up.
  setTimeout(() => {
    if (entry.users > 0) return;
    cache.delete(url);
    entry.geometry
      .then((g) => {
        g.surface.dispose();
        if (g.kind === "body") g.edges.dispose();
      })
      .catch(() => undefined);
  }, 20_000);
}
