/** Facets inside a shape drawn on screen: all the way through the part, or only those that can be seen. No React. */
import {
  type BufferGeometry,
  Color,
  FloatType,
  Matrix4,
  Mesh,
  type PerspectiveCamera,
  Scene,
  ShaderMaterial,
  Vector3,
  Vector4,
  type WebGLRenderer,
  WebGLRenderTarget,
} from "three";
import { clipPlanes } from "../clip/clip";
import { reducedOf, wholeFacets } from "./reduced";

export interface Spot {
  x: number;
  y: number;
}

/** A drawn shape as pixels: 1 inside. */
export interface Mask {
  width: number;
  height: number;
  inside: Uint8Array;
}

/** Even-odd filling of a closed polygon, line by line. */
export function polygonMask(width: number, height: number, polygon: readonly Spot[]): Mask {
  const inside = new Uint8Array(width * height);
  const n = polygon.length;
  for (let y = 0; y < height; y++) {
    const line = y + 0.5;
    const crossings: number[] = [];
    for (let i = 0; i < n; i++) {
      const a = polygon[i]!;
      const b = polygon[(i + 1) % n]!;
      if (a.y <= line !== b.y <= line) crossings.push(a.x + ((line - a.y) / (b.y - a.y)) * (b.x - a.x));
    }
    crossings.sort((p, q) => p - q);
    for (let k = 0; k + 1 < crossings.length; k += 2) {
      const from = Math.max(0, Math.ceil(crossings[k]! - 0.5));
      const to = Math.min(width - 1, Math.floor(crossings[k + 1]! - 0.5));
      if (to >= from) inside.fill(1, y * width + from, y * width + to + 1);
    }
  }
  return { width, height, inside };
}

/** Discs along a stroke. */
export function strokeMask(width: number, height: number, stroke: readonly Spot[], radius: number): Mask {
  const inside = new Uint8Array(width * height);
  for (const s of stroke) {
    for (let y = Math.max(0, Math.floor(s.y - radius)); y <= Math.min(height - 1, s.y + radius); y++) {
      const half = Math.sqrt(Math.max(0, radius * radius - (y - s.y) ** 2));
      const from = Math.max(0, Math.round(s.x - half));
      const to = Math.min(width - 1, Math.round(s.x + half));
      if (to >= from) inside.fill(1, y * width + from, y * width + to + 1);
    }
  }
  return { width, height, inside };
}

const centroidsOf = new WeakMap<BufferGeometry, Float32Array>();

/** Centroids of all facets, worked out once per scan. */
export function centroids(geometry: BufferGeometry): Float32Array {
  const known = centroidsOf.get(geometry);
  if (known) return known;
  const p = geometry.getAttribute("position").array;
  const index = geometry.index!.array;
  const out = new Float32Array(index.length);
  for (let f = 0; f < index.length; f += 3) {
    const a = 3 * index[f]!;
    const b = 3 * index[f + 1]!;
    const c = 3 * index[f + 2]!;
    for (let k = 0; k < 3; k++) out[f + k] = (p[a + k]! + p[b + k]! + p[c + k]!) / 3;
  }
  centroidsOf.set(geometry, out);
  return out;
}

/** What can be seen: distance along the line of sight for every second pixel, from one pass of the scan alone. */
export interface DepthMap {
  width: number;
  height: number;
  depth: Float32Array;
  view: string;
}

const depthMaterial = new ShaderMaterial({
  uniforms: { cut: { value: new Vector4(0, 0, 0, 1) } },
  vertexShader: `varying float d; varying float kept; uniform vec4 cut; void main() {
    vec4 p = modelViewMatrix * vec4(position, 1.0); d = -p.z; gl_Position = projectionMatrix * p;
    kept = dot(cut.xyz, (modelMatrix * vec4(position, 1.0)).xyz) + cut.w; }`,
  fragmentShader:
    "varying float d; varying float kept; void main() { if (kept < 0.0) discard; gl_FragColor = vec4(d, 0.0, 0.0, 1.0); }",
});
depthMaterial.side = 2;

const viewOf = (camera: PerspectiveCamera, w: number, h: number, cut: Vector4) =>
  `${camera.matrixWorld.elements.join()} ${w} ${h} ${cut.toArray().join()}`;

/** The plane that the view is cut open at, as a row: what is kept lies on its positive side. Everything is where there is none. */
function cutRow(): Vector4 {
  const [plane] = clipPlanes();
  return plane ? new Vector4(...plane.normal.toArray(), plane.constant) : new Vector4(0, 0, 0, 1);
}

export function depthMap(
  gl: WebGLRenderer,
  camera: PerspectiveCamera,
  scan: Mesh,
  width: number,
  height: number,
  old: DepthMap | null,
): DepthMap {
  const w = Math.ceil(width / 2);
  const h = Math.ceil(height / 2);
  camera.updateMatrixWorld();
  const cut = cutRow();
  const view = viewOf(camera, w, h, cut);
  if (old?.view === view) return old;
  depthMaterial.uniforms.cut!.value = cut;
  const target = new WebGLRenderTarget(w, h, { type: FloatType });
  const scene = new Scene();
  const copy = new Mesh(scan.geometry, depthMaterial);
  scan.updateWorldMatrix(true, false);
  copy.matrixAutoUpdate = false;
  copy.matrix.copy(scan.matrixWorld);
  scene.add(copy);
  const before = gl.getRenderTarget();
  const clear = gl.getClearColor(new Color());
  const alpha = gl.getClearAlpha();
  gl.setRenderTarget(target);
  gl.setClearColor(0x000000, 0);
  gl.clear();
  gl.render(scene, camera);
  const pixels = new Float32Array(w * h * 4);
  gl.readRenderTargetPixels(target, 0, 0, w, h, pixels);
  gl.setRenderTarget(before);
  gl.setClearColor(clear, alpha);
  target.dispose();
  const depth = new Float32Array(w * h);
  // Rows come from the bottom up.
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) depth[(h - 1 - y) * w + x] = pixels[4 * (y * w + x)]!;
  return { width: w, height: h, depth, view };
}

/** Facets whose middle lies inside the mask and is not cut away; with a depth map, only those that face the eye and are not covered. Where the
 * part is cut open their backs are seen too. */
export function facetsInside(scan: Mesh, camera: PerspectiveCamera, mask: Mask, depth: DepthMap | null): Uint32Array {
  const geometry = scan.geometry;
  const middles = centroids(geometry);
  const count = middles.length / 3;
  scan.updateWorldMatrix(true, false);
  camera.updateMatrixWorld();
  const m = new Matrix4()
    .multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse)
    .multiply(scan.matrixWorld).elements;
  const mv = new Matrix4().multiplyMatrices(camera.matrixWorldInverse, scan.matrixWorld).elements;
  const { width, height, inside } = mask;
  const found = new Uint32Array(count);
  let n = 0;
  const p = geometry.getAttribute("position").array;
  const index = geometry.index!.array;
  const row = cutRow();
  const opened = clipPlanes().length > 0;
  // A plane goes into the scan's own frame by the transpose of the way out of it.
  const cut = row.applyMatrix4(new Matrix4().copy(scan.matrixWorld).transpose());
  const eye = scan.worldToLocal(new Vector3().copy(camera.position));
  for (let f = 0; f < count; f++) {
    const x = middles[3 * f]!;
    const y = middles[3 * f + 1]!;
    const z = middles[3 * f + 2]!;
    const w = m[3]! * x + m[7]! * y + m[11]! * z + m[15]!;
    if (w <= 0 || cut.x * x + cut.y * y + cut.z * z + cut.w < 0) continue;
    const px = (((m[0]! * x + m[4]! * y + m[8]! * z + m[12]!) / w) * 0.5 + 0.5) * width;
    const py = (0.5 - ((m[1]! * x + m[5]! * y + m[9]! * z + m[13]!) / w) * 0.5) * height;
    const ix = px | 0;
    const iy = py | 0;
    if (px < 0 || py < 0 || ix >= width || iy >= height || inside[iy * width + ix] === 0) continue;
    if (depth) {
      const a = 3 * index[3 * f]!;
      const b = 3 * index[3 * f + 1]!;
      const c = 3 * index[3 * f + 2]!;
      const ux = p[b]! - p[a]!;
      const uy = p[b + 1]! - p[a + 1]!;
      const uz = p[b + 2]! - p[a + 2]!;
      const vx = p[c]! - p[a]!;
      const vy = p[c + 1]! - p[a + 1]!;
      const vz = p[c + 2]! - p[a + 2]!;
      const towards =
        (uy * vz - uz * vy) * (eye.x - x) + (uz * vx - ux * vz) * (eye.y - y) + (ux * vy - uy * vx) * (eye.z - z);
      if (towards <= 0 && !opened) continue;
      const away = -(mv[2]! * x + mv[6]! * y + mv[10]! * z + mv[14]!);
      const seen = depth.depth[Math.min(depth.height - 1, iy >> 1) * depth.width + Math.min(depth.width - 1, ix >> 1)]!;
      // A facet's own size in depth is no cover.
      const size = Math.sqrt(Math.max(ux * ux + uy * uy + uz * uz, vx * vx + vy * vy + vz * vz));
      if (seen > 0 && away > seen + 1.5 * size) continue;
    }
    found[n++] = f;
  }
  const reduced = reducedOf(geometry);
  return reduced ? wholeFacets(reduced, found.subarray(0, n)) : found.slice(0, n);
}

/** Both selections together, or the first without the second; results are sorted. */
export function joined(old: Uint32Array | null, fresh: Uint32Array, how: "replace" | "add" | "take"): Uint32Array {
  if (!old || how === "replace") return how === "take" ? new Uint32Array() : fresh;
  const most = Math.max(old.at(-1) ?? 0, fresh.at(-1) ?? 0) + 1;
  const chosen = new Uint8Array(most);
  for (const f of old) chosen[f] = 1;
  for (const f of fresh) chosen[f] = how === "add" ? 1 : 0;
  let n = 0;
  for (const c of chosen) n += c;
  const out = new Uint32Array(n);
  let k = 0;
  for (let f = 0; f < most; f++) if (chosen[f]) out[k++] = f;
  return out;
}
