/** Geometry lives outside React: fetched once per product key, disposed when nothing shows it any more. */
import { BufferAttribute, BufferGeometry, Mesh } from "three";
import { acceleratedRaycast, MeshBVH, type SerializedBVH } from "three-mesh-bvh";
import { parseBuffers } from "./buffers";
import BvhWorker from "./bvh.worker?worker";

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

async function load(url: string, kind: "scan" | "body"): Promise<ScanGeometry | BodyGeometry> {
  const buffers = parseBuffers(await fetched(url));
  const surface = new BufferGeometry();
  surface.setAttribute("position", new BufferAttribute(buffers.f4("positions"), 3));
  surface.setIndex(new BufferAttribute(buffers.u4("indices"), 1));
  surface.computeVertexNormals();
  surface.computeBoundingBox();
  if (kind === "scan") {
    growTree(surface);
    return { kind, surface, origin: buffers.origin };
  }
  const edges = new BufferGeometry();
  edges.setAttribute("position", new BufferAttribute(buffers.f4("edges"), 3));
  return { kind, surface, edges, origin: buffers.origin };
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
