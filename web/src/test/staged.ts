/** A stage to pick on without a screen: a camera that looks down on a block and a scan of its top. */

import { BoxGeometry, DoubleSide, Mesh, MeshBasicMaterial, PerspectiveCamera, PlaneGeometry, Vector3 } from "three";
import type { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { vi } from "vitest";
import { stage } from "../view/stage";

export const WIDTH = 800;
export const HEIGHT = 600;

/** Of an element without a screen: jsdom lays nothing out. */
export const boxed = (element: Element, left: number, top: number, width: number, height: number) =>
  vi.spyOn(element, "getBoundingClientRect").mockReturnValue(new DOMRect(left, top, width, height));

/** Camera 100 mm above the origin, y up on screen; the canvas begins at (10, 20) of the page. */
export function setStage() {
  const canvas = document.createElement("canvas");
  boxed(canvas, 10, 20, WIDTH, HEIGHT);
  Object.defineProperty(canvas, "clientHeight", { value: HEIGHT });
  canvas.setPointerCapture = vi.fn();
  const camera = new PerspectiveCamera(28, WIDTH / HEIGHT, 1, 1000);
  camera.position.set(0, 0, 100);
  camera.lookAt(0, 0, 0);
  camera.updateMatrixWorld();
  const target = new Vector3();
  const update = vi.fn(() => {
    camera.lookAt(target);
    camera.updateMatrixWorld();
  });
  const controls = { target, update } as unknown as OrbitControls;
  const invalidate = vi.fn();
  stage.now = { camera, controls, canvas, gl: {} as never, invalidate };
  stage.scan = null;
  stage.bodies.clear();
  stage.seen.clear();
  return { canvas, camera, controls, invalidate };
}

/** A cube about a place; its triangles are told apart by side, two each: +x, -x, +y, -y, +z, -z. */
export function addBlock(id: string, size = 20, at: [number, number, number] = [0, 0, 0]) {
  const mesh = new Mesh(new BoxGeometry(size, size, size), new MeshBasicMaterial());
  mesh.position.set(...at);
  mesh.updateMatrixWorld();
  const faces = Uint32Array.from({ length: 12 }, (_, k) => k >> 1);
  stage.bodies.set(id, { id, key: `key-${id}`, mesh, faces, edges: { positions: [], edgeOf: new Uint32Array() } });
  stage.seen.set(id, mesh);
  return mesh;
}

/** A sheet of `cells` by `cells` squares in the xy plane, seen from above. */
export function addScan(size = 20, height = 10, cells = 2) {
  const mesh = new Mesh(new PlaneGeometry(size, size, cells, cells), new MeshBasicMaterial({ side: DoubleSide }));
  mesh.position.set(0, 0, height);
  mesh.updateMatrixWorld();
  stage.scan = mesh;
  return mesh;
}

/** What the API says of a block's faces, in the order that its triangles have them. */
export const blockFaces = ["+x", "-x", "+y", "-y", "+z", "-z"].map((name) => ({ name, label: `face ${name}`, kind: "plane", centre: [0, 0, 0], axis: [0, 0, 1], area: 400, beside: [] })); // biome-ignore format: one row each
