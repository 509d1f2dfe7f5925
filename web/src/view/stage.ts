/** The one stage on screen: camera, controls and the pickable scan. Helpers and tests reach the view through it. */
import {
  Box3,
  type Camera,
  DoubleSide,
  type Intersection,
  type Material,
  type Mesh,
  type PerspectiveCamera,
  Plane,
  type Quaternion,
  Raycaster,
  Sphere,
  Vector2,
  Vector3,
  type WebGLRenderer,
} from "three";
import type { OrbitControls } from "three/addons/controls/OrbitControls.js";
import type { Vec3 } from "../api/build";
import { clipPlanes, isKept } from "../clip/clip";
import { fitted } from "./fitted";
import { reducedOf } from "./reduced";

interface Stage {
  camera: PerspectiveCamera;
  controls: OrbitControls | null;
  canvas: HTMLCanvasElement;
  gl: WebGLRenderer;
  invalidate: () => void;
}

/** A body on screen, as picks see it. */
export interface StagedBody {
  id: string;
  key: string;
  mesh: Mesh;
  faces: Uint32Array;
  /** Segments of its edges in the mesh's own frame, and the edge each belongs to. */
  edges: { positions: ArrayLike<number>; edgeOf: Uint32Array };
}

export const stage: {
  now: Stage | null;
  scan: Mesh | null;
  bodies: Map<string, StagedBody>;
  seen: Map<string, Mesh>;
  frame: number;
  /** Of all that was brought into view last, mm. */
  radius: number;
} = {
  now: null,
  scan: null,
  bodies: new Map(),
  seen: new Map(),
  frame: 0,
  radius: 250,
};

const ray = new Raycaster();
ray.firstHitOnly = true;

function device(x: number, y: number, canvas: HTMLCanvasElement): Vector2 {
  const r = canvas.getBoundingClientRect();
  return new Vector2(((x - r.left) / r.width) * 2 - 1, 1 - ((y - r.top) / r.height) * 2);
}

export interface Hit {
  facet: number;
  point: Vec3;
}

/** How far along the ray cut material is met, where something is cut away: nothing behind it is seen. */
function capDistance(): number {
  const [plane] = clipPlanes();
  if (!plane) return Number.POSITIVE_INFINITY;
  const at = ray.ray.distanceToPlane(plane);
  if (at === null) return Number.POSITIVE_INFINITY;
  const inside = [...stage.bodies.values()].some(({ mesh }) => {
    // Every face that is crossed on the side that is cut away leads in or out of the material.
    const crossed = bothSides(mesh).filter((h) => !isKept(h.point.toArray()) && h.distance < at);
    return crossed.reduce((deep, h) => deep + (facing(h) ? 1 : -1), 0) > 0;
  });
  return inside ? at : Number.POSITIVE_INFINITY;
}

/** All that the ray meets of a mesh, its backs too. */
function bothSides(mesh: Mesh): Intersection[] {
  const material = mesh.material as Material;
  const { side } = material;
  material.side = DoubleSide;
  ray.firstHitOnly = false;
  const hits = ray.intersectObject(mesh, false);
  ray.firstHitOnly = true;
  material.side = side;
  return hits;
}

/** Whether a face is met from its outer side; meshes on the stage are moved, never turned. */
const facing = (hit: Intersection): boolean => (hit.face?.normal.dot(ray.ray.direction) ?? -1) < 0;

/** What the ray meets of a mesh first; where something is cut away, first of what is left. */
function firstKept(mesh: Mesh): Intersection | undefined {
  if (clipPlanes().length === 0) return ray.intersectObject(mesh, false)[0];
  ray.firstHitOnly = false;
  const hits = ray.intersectObject(mesh, false).sort((a, b) => a.distance - b.distance);
  ray.firstHitOnly = true;
  return hits.find((h) => isKept(h.point.toArray()));
}

/** The scan's facet under a place on screen; its boundsTree is indirect, so ids are the server's. */
export function pickScan(x: number, y: number): Hit | null {
  if (!stage.now || !stage.scan) return null;
  ray.setFromCamera(device(x, y, stage.now.canvas), stage.now.camera);
  const hit = firstKept(stage.scan);
  if (hit?.faceIndex == null || hit.distance > capDistance()) return null;
  const facet = reducedOf(stage.scan.geometry)?.facetOf[hit.faceIndex] ?? hit.faceIndex;
  return { facet, point: hit.point.toArray() };
}

export interface BodyHit {
  body: string;
  key: string;
  /** Place of the face in the body's list of faces. */
  face: number;
  point: Vec3;
  distance: number;
}

/** Faces of bodies under a place on screen, nearest first: with `all`, those behind as well. */
export function pickBodies(x: number, y: number, all = false): BodyHit[] {
  if (!stage.now) return [];
  ray.setFromCamera(device(x, y, stage.now.canvas), stage.now.camera);
  const cut = clipPlanes().length > 0;
  const cap = all ? Number.POSITIVE_INFINITY : capDistance();
  ray.firstHitOnly = !all && !cut;
  const hits: BodyHit[] = [];
  for (const b of stage.bodies.values())
    for (const hit of ray.intersectObject(b.mesh, false)) {
      if (hit.faceIndex == null || (cut && !isKept(hit.point.toArray())) || hit.distance > cap) continue;
      const face = b.faces[hit.faceIndex] ?? 0;
      if (hits.some((h) => h.key === b.key && h.face === face)) continue;
      hits.push({ body: b.id, key: b.key, face, point: hit.point.toArray(), distance: hit.distance });
    }
  ray.firstHitOnly = true;
  return hits.sort((a, b) => a.distance - b.distance);
}

/** How far a point lies from the camera. */
export function awayFromCamera(p: Vec3): number {
  return stage.now ? stage.now.camera.position.distanceTo(new Vector3(...p)) : 0;
}

/** Page coordinates of a point in space; visible says whether it lies in front of the camera and on the canvas. */
export function project(p: Vec3): { x: number; y: number; visible: boolean } {
  if (!stage.now) return { x: 0, y: 0, visible: false };
  const { camera, canvas } = stage.now;
  const v = new Vector3(...p).project(camera as Camera);
  const r = canvas.getBoundingClientRect();
  const visible = Math.abs(v.x) <= 1 && Math.abs(v.y) <= 1 && v.z < 1;
  return { x: r.left + (v.x * 0.5 + 0.5) * r.width, y: r.top + (0.5 - v.y * 0.5) * r.height, visible };
}

/** How far along a line (point, unit direction) the pointer is. */
export function alongLine(x: number, y: number, point: Vec3, direction: Vec3): number | null {
  if (!stage.now) return null;
  ray.setFromCamera(device(x, y, stage.now.canvas), stage.now.camera);
  const d = new Vector3(...direction);
  const o = new Vector3(...point);
  // The plane through the line that faces the pointer's ray most squarely.
  const side = new Vector3().crossVectors(d, ray.ray.direction);
  if (side.lengthSq() < 1e-6) return null;
  const plane = new Plane().setFromNormalAndCoplanarPoint(side.cross(d).normalize(), o);
  const at = ray.ray.intersectPlane(plane, new Vector3());
  return at ? at.sub(o).dot(d) : null;
}

/** Where the pointer meets the plane through a place; none where it looks along it. */
export function onPlane(x: number, y: number, point: Vec3, normal: Vec3): Vec3 | null {
  if (!stage.now) return null;
  ray.setFromCamera(device(x, y, stage.now.canvas), stage.now.camera);
  const n = new Vector3(...normal);
  if (Math.abs(n.dot(ray.ray.direction)) < 0.05) return null;
  const at = ray.ray.intersectPlane(new Plane().setFromNormalAndCoplanarPoint(n, new Vector3(...point)), new Vector3());
  return at ? (at.toArray() as Vec3) : null;
}

/** Millimetres that one pixel covers at a point. */
export function pixelSize(p: Vec3): number {
  if (!stage.now) return 1;
  const { camera, canvas } = stage.now;
  const away = camera.position.distanceTo(new Vector3(...p));
  return (2 * away * Math.tan((camera.fov * Math.PI) / 360)) / canvas.clientHeight;
}

/** Degrees that the view opens by, and how little it opens where it is shown in parallel: lines that are parallel in space then
 * meet nowhere on a screen, while everything that is reckoned for a camera stays true. */
const OPEN = 28;
const PARALLEL = 0.25;

/** How much farther the camera stands than it would where the view opens as usual. */
function spread(): number {
  return stage.now ? Math.tan((OPEN * Math.PI) / 360) / Math.tan((stage.now.camera.fov * Math.PI) / 360) : 1;
}

/** Shown in parallel, or as an eye sees it: the place looked at keeps its size. */
export function setParallel(on: boolean) {
  if (!stage.now?.controls) return;
  const { camera, controls, invalidate } = stage.now;
  const before = spread();
  camera.fov = on ? PARALLEL : OPEN;
  camera.updateProjectionMatrix();
  const away = camera.position.clone().sub(controls.target);
  camera.position.copy(controls.target).addScaledVector(away, spread() / before);
  controls.update();
  invalidate();
}

/** Near and far so that all of the part is drawn, however far the camera stands. Called before every frame. */
export function setDepth() {
  if (!stage.now?.controls) return;
  const { camera, controls } = stage.now;
  const away = camera.position.distanceTo(controls.target);
  const near = Math.max(away / 100, away - 40 * stage.radius);
  const far = away + 40 * stage.radius;
  if (Math.abs(near - camera.near) < 1e-3 * near && Math.abs(far - camera.far) < 1e-3 * far) return;
  camera.near = near;
  camera.far = far;
  camera.updateProjectionMatrix();
}

/** How far camera and target have to move so that a turn of the camera turns about `pivot` and not about the target it had. */
export function pivotShift(pivot: Vector3, target: Vector3, before: Quaternion, after: Quaternion): Vector3 {
  const turn = after.clone().multiply(before.clone().invert());
  return target.clone().sub(pivot).applyQuaternion(turn).add(pivot).sub(target);
}

interface Look {
  from: Vector3;
  at: Vector3;
  spread: number;
}
const looks: Look[] = [];
const MOST_LOOKS = 40;

/** Before the view is moved on purpose: where it was can be gone back to. */
function remember() {
  if (!stage.now?.controls) return;
  const { camera, controls } = stage.now;
  looks.push({ from: camera.position.clone(), at: controls.target.clone(), spread: spread() });
  if (looks.length > MOST_LOOKS) looks.shift();
}

/** The view as it was before it was last moved on purpose. */
export function previousView() {
  const look = looks.pop();
  if (!look || !stage.now?.controls) return;
  const { camera, controls, invalidate } = stage.now;
  const away = look.from.clone().sub(look.at);
  camera.position.copy(look.at).addScaledVector(away, spread() / look.spread);
  controls.target.copy(look.at);
  controls.update();
  invalidate();
}

/** The same place, seen from another side. */
export function lookFrom(from: Vec3) {
  if (!stage.now?.controls) return;
  const { controls } = stage.now;
  faceOn(controls.target.toArray() as Vec3, from);
}

const HOME = new Vector3(0.62, -0.86, 0.62).normalize();

/** Whole part in view, seen from front right above unless a direction is given. */
export function fitView(box: Box3, from: Vector3 = HOME, filled?: number) {
  if (!stage.now || box.isEmpty()) return;
  remember();
  const { camera, controls, invalidate } = stage.now;
  const { at, away } = fitted(box, from, camera, filled);
  camera.position.copy(at).addScaledVector(from, away);
  stage.radius = box.getBoundingSphere(new Sphere()).radius;
  controls?.target.copy(at);
  controls?.update();
  invalidate();
}

/** Bring a place to the middle and come closer, keeping the direction of looking. */
export function goTo(p: Vec3) {
  if (!stage.now) return;
  const { camera, controls, invalidate } = stage.now;
  if (!controls) return;
  remember();
  const back = camera.position.clone().sub(controls.target).multiplyScalar(0.55);
  controls.target.set(...p);
  camera.position.set(...p).add(back);
  controls.update();
  invalidate();
}

/** Fly to a place on a surface so that it is seen from outside, a little aslant, from `away` mm. */
export function flyTo(p: Vec3, outward: Vec3, away: number) {
  if (!stage.now) return;
  const { camera, controls, invalidate } = stage.now;
  if (!controls) return;
  remember();
  const n = new Vector3(...outward);
  const now = camera.position.clone().sub(controls.target).normalize();
  // As much as the present view as the surface allows: a full turn would lose one's bearings.
  const from = n.lengthSq() > 0 ? n.normalize().multiplyScalar(1.4).add(now) : now;
  if (from.lengthSq() < 0.05) from.copy(n).add(new Vector3(0.3, 0.2, 0.1));
  from.normalize();
  if (Math.abs(from.z) > 0.999) from.set(0.03, -0.03, Math.sign(from.z)).normalize();
  controls.target.set(...p);
  camera.position.set(...p).addScaledVector(from, away * spread());
  controls.update();
  invalidate();
}

/** Look straight onto a plane from its outer side. */
export function faceOn(p: Vec3, normal: Vec3) {
  if (!stage.now) return;
  const { camera, controls, invalidate } = stage.now;
  if (!controls) return;
  remember();
  const away = camera.position.distanceTo(controls.target);
  const n = new Vector3(...normal).normalize();
  // Exactly from above the controls cannot tell which way is up: stay a hair off the pole.
  if (Math.abs(n.z) > 0.9999) n.set(0, -0.004, Math.sign(n.z)).normalize();
  controls.target.set(...p);
  camera.position.set(...p).addScaledVector(n, away);
  controls.update();
  invalidate();
}

/** Around all bodies that can be seen, those that are only previews too. */
export function bodiesBox(): Box3 {
  const box = new Box3();
  for (const mesh of stage.seen.values()) {
    mesh.updateWorldMatrix(true, false); // its group may not have been drawn yet
    box.expandByObject(mesh);
  }
  return box;
}

/** Where a camera stands that looks at the same place from `times` as far. */
export const standBack = (eye: Vector3, target: Vector3, times: number): Vector3 =>
  eye.clone().sub(target).multiplyScalar(times).add(target);

/** Around everything that can be seen: bodies, and the scan. */
export function sceneBox(): Box3 {
  const box = bodiesBox();
  if (stage.scan?.visible) {
    stage.scan.updateWorldMatrix(true, false);
    box.expandByObject(stage.scan);
  }
  return box;
}

declare global {
  interface Window {
    contourView?: Record<string, unknown>;
  }
}

/** What browser tests use to click real pixels. */
export function exposeForTests(more: Record<string, unknown>) {
  window.contourView = {
    ...more,
    project,
    pick: pickScan,
    centroid: (facet: number): Vec3 => {
      const geometry = stage.scan?.geometry;
      const index = geometry?.index;
      const position = geometry?.getAttribute("position");
      if (!geometry || !index || !position || !stage.scan) return [0, 0, 0];
      const v = new Vector3();
      for (let k = 0; k < 3; k++) v.add(new Vector3().fromBufferAttribute(position, index.getX(3 * facet + k)));
      return stage.scan.localToWorld(v.multiplyScalar(1 / 3)).toArray();
    },
    faceOn,
    goTo,
    pickBodies,
    bodies: () => [...stage.bodies.values()].map((b) => ({ id: b.id, key: b.key })),
    /** Whether the scan is drawn with colours of its own. */
    coloured: () => (stage.scan?.material as { vertexColors?: boolean } | undefined)?.vertexColors === true,
    ready: () => Boolean(stage.scan?.geometry.boundsTree),
  };
}
