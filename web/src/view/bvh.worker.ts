/** Builds the bounding-volume tree of a scan away from the page; indirect, so that facet ids stay the server's. */
import { BufferAttribute, BufferGeometry } from "three";
import { CENTER, MeshBVH } from "three-mesh-bvh";

self.onmessage = (e: MessageEvent<{ positions: Float32Array; indices: Uint32Array }>) => {
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(e.data.positions, 3));
  geometry.setIndex(new BufferAttribute(e.data.indices, 1));
  const tree = MeshBVH.serialize(new MeshBVH(geometry, { indirect: true, strategy: CENTER }), { cloneBuffers: false });
  self.postMessage({ ...tree, index: null });
};
