import type { Mesh } from "three";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { acquire, type BodyGeometry, bodyFrom, mapFrom, release, type ScanGeometry } from "./geometry";
import { reducedOf } from "./reduced";

/** The tree is grown in a worker: here it never answers, and only what it was asked is kept. */
const posted = vi.hoisted(() => [] as { positions: Float32Array; indices: Uint32Array }[]);
vi.mock("./bvh.worker?worker", () => ({
  default: class {
    onmessage: ((e: MessageEvent) => void) | null = null;
    postMessage = (what: (typeof posted)[number]) => void posted.push(what);
    terminate = () => undefined;
  },
}));

type Section = Float32Array | Uint32Array;
/** A buffer as the server writes it (docs/formats.md). */
function buffer(sections: Record<string, Section>): ArrayBuffer {
  let at = 0;
  const head: Record<string, { dtype: string; offset: number; count: number }> = {};
  for (const [name, values] of Object.entries(sections)) {
    head[name] = { dtype: values instanceof Float32Array ? "f4" : "u4", offset: at, count: values.length };
    at = Math.ceil((at + values.byteLength) / 8) * 8;
  }
  let text = JSON.stringify({ version: 1, origin: [10, 20, 30], sections: head });
  text = text.padEnd(Math.ceil((text.length + 8) / 8) * 8 - 8, " ");
  const data = new ArrayBuffer(8 + text.length + at);
  const bytes = new Uint8Array(data);
  bytes.set(new TextEncoder().encode("UCV1"));
  new DataView(data).setUint32(4, text.length, true);
  bytes.set(new TextEncoder().encode(text), 8);
  for (const [name, values] of Object.entries(sections))
    bytes.set(new Uint8Array(values.buffer), 8 + text.length + head[name]!.offset);
  return data;
}

const corners = Float32Array.from([0, 0, 0, 4, 0, 0, 4, 3, 0, 0, 3, 0]);
const triangles = Uint32Array.from([0, 1, 2, 0, 2, 3]);
const scan = () => buffer({ positions: corners, indices: triangles });
const body = (more: Record<string, Section> = { edge_of: Uint32Array.from([0, 0, 1]) }) =>
  buffer({ positions: corners, indices: triangles, edges: corners, faces: Uint32Array.from([5, 6]), ...more });

let served: Record<string, () => Response>;
let asked: string[];
const serve = (url: string, data: ArrayBuffer) => {
  served[url] = () => new Response(data.slice(0));
};

describe("geometry outside React", () => {
  beforeEach(() => {
    served = {};
    asked = [];
    posted.length = 0;
    vi.stubGlobal("fetch", async (url: string) => {
      asked.push(url);
      return served[url]?.() ?? new Response("gone", { status: 404 });
    });
  });
  afterEach(() => {
    vi.useRealTimers();
  });

  it("of a scan has its facets in the server's order, normals, and a tree on its way", async () => {
    serve("/scan-a", scan());
    const g = (await acquire("/scan-a", "scan")) as ScanGeometry;
    expect(g.kind).toBe("scan");
    expect(g.origin).toEqual([10, 20, 30]);
    expect([...g.surface.index!.array]).toEqual([...triangles]);
    expect(g.surface.getAttribute("normal").getZ(0)).toBeCloseTo(1);
    expect(g.surface.boundingBox!.max.toArray()).toEqual([4, 3, 0]);
    expect(reducedOf(g.surface)).toBeNull();
    expect(posted).toHaveLength(1);
    expect([...posted[0]!.indices]).toEqual([...triangles]);
  });

  it("of a reduced scan knows which facets of the whole one are shown by which", async () => {
    const more = { vertex_of: Uint32Array.from([0, 3, 5, 9]), facet_of: Uint32Array.from([0, 4]), shown_by: Uint32Array.from([0, 0, 1, 1, 1]) }; // biome-ignore format: one object
    serve("/scan-b", buffer({ positions: corners, indices: triangles, ...more }));
    const g = (await acquire("/scan-b", "scan")) as ScanGeometry;
    expect([...reducedOf(g.surface)!.facetOf]).toEqual([0, 4]);
    expect([...reducedOf(g.surface)!.shownBy]).toEqual([0, 0, 1, 1, 1]);
  });

  it("of a body has the face of every triangle and the edge of every segment", async () => {
    serve("/body-a", body());
    const g = (await acquire("/body-a", "body")) as BodyGeometry;
    expect([...g.faces]).toEqual([5, 6]);
    expect([...g.edgeOf]).toEqual([0, 0, 1]);
    expect(g.edges.getAttribute("position").count).toBe(4);
  });

  it("of a body from an earlier version has no edges to pick, and is shown all the same", async () => {
    serve("/body-old", body({}));
    const g = (await acquire("/body-old", "body")) as BodyGeometry;
    expect(g.edgeOf).toHaveLength(0);
    expect(g.surface.index!.count).toBe(6);
  });

  it("is fetched once for however many show it, and given up a while after the last", async () => {
    vi.useFakeTimers();
    serve("/shared", body());
    const first = await acquire("/shared", "body");
    const second = await acquire("/shared", "body");
    expect(second).toBe(first);
    expect(asked).toEqual(["/shared"]);
    const gone = vi.spyOn(first.surface, "dispose");
    release("/shared");
    await vi.advanceTimersByTimeAsync(60_000);
    expect(gone).not.toHaveBeenCalled(); // somebody still shows it
    release("/shared");
    await vi.advanceTimersByTimeAsync(5000);
    expect(gone).not.toHaveBeenCalled(); // undo may bring it back
    await vi.advanceTimersByTimeAsync(20_000);
    expect(gone).toHaveBeenCalledTimes(1);
    await acquire("/shared", "body");
    expect(asked).toHaveLength(2);
  });

  it("taken up again in the meantime stays", async () => {
    vi.useFakeTimers();
    serve("/again", body());
    const first = await acquire("/again", "body");
    const gone = vi.spyOn(first.surface, "dispose");
    release("/again");
    await acquire("/again", "body");
    await vi.advanceTimersByTimeAsync(60_000);
    expect(gone).not.toHaveBeenCalled();
    expect(asked).toHaveLength(1);
  });

  it("that could not be loaded says so, and is tried anew", async () => {
    await expect(acquire("/late", "scan")).rejects.toThrow(/could not be loaded \(404\)/);
    serve("/late", scan());
    await expect(acquire("/late", "scan")).resolves.toMatchObject({ kind: "scan" });
  });

  it("that is no buffer is refused", async () => {
    serve("/other", new ArrayBuffer(64));
    await expect(acquire("/other", "scan")).rejects.toThrow(/no view buffer/);
    release("/never-asked"); // nothing to give up
  });

  it("comes out of a text that is at hand, and with figures of a map", async () => {
    const text = btoa(String.fromCharCode(...new Uint8Array(body())));
    expect([...bodyFrom(text).faces]).toEqual([5, 6]);
    serve("/map", buffer({ positions: corners, indices: triangles, deviation: Float32Array.from([0, 0.1, 0.2, 0.3]) }));
    const map = await mapFrom("/map");
    expect([...map.values].map((v) => v.toFixed(1))).toEqual(["0.0", "0.1", "0.2", "0.3"]);
    expect(map.origin).toEqual([10, 20, 30]);
  });

  it("answers rays by its tree once that has come", async () => {
    const three = await import("three");
    const bvh = await import("three-mesh-bvh");
    serve("/picked", scan());
    const g = (await acquire("/picked", "scan")) as ScanGeometry;
    g.surface.boundsTree = new bvh.MeshBVH(g.surface, { indirect: true });
    const mesh: Mesh = new three.Mesh(g.surface, new three.MeshBasicMaterial({ side: three.DoubleSide }));
    const ray = new three.Raycaster(new three.Vector3(3.5, 0.5, 5), new three.Vector3(0, 0, -1));
    expect(ray.intersectObject(mesh).map((h) => h.faceIndex)).toEqual([0]); // the tree keeps the server's order
    const other = new three.Raycaster(new three.Vector3(0.5, 2.5, 5), new three.Vector3(0, 0, -1));
    expect(other.intersectObject(mesh).map((h) => h.faceIndex)).toEqual([1]);
  });
});
