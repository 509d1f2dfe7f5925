/** Turning the view about the place that was under the pointer when the turn began. No React. */
import { type PerspectiveCamera, Quaternion, Vector3 } from "three";
import type { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { awayFromCamera, pickBodies, pickScan, pivotShift } from "./stage";

/** The nearest place of scan or bodies at a place of the page. */
function under(x: number, y: number): Vector3 | null {
  const body = pickBodies(x, y)[0];
  const scan = pickScan(x, y);
  const near = scan && (!body || awayFromCamera(scan.point) < body.distance) ? scan.point : body?.point;
  return near ? new Vector3(...near) : null;
}

/** Makes the controls turn about what lies under the pointer; where nothing does they keep their own middle. Returns what ends it. */
export function turnAboutPointer(
  controls: OrbitControls,
  camera: PerspectiveCamera,
  canvas: HTMLCanvasElement,
): () => void {
  let pivot: Vector3 | null = null;
  const before = new Quaternion();
  const down = (e: PointerEvent) => {
    const turns = e.button === 0 && !e.shiftKey && !e.ctrlKey && !e.metaKey;
    pivot = turns ? under(e.clientX, e.clientY) : null;
    before.copy(camera.quaternion);
  };
  const up = () => {
    pivot = null;
  };
  const change = () => {
    if (!pivot || before.angleTo(camera.quaternion) < 1e-9) return;
    const shift = pivotShift(pivot, controls.target, before, camera.quaternion);
    before.copy(camera.quaternion);
    camera.position.add(shift);
    controls.target.add(shift);
    camera.updateMatrixWorld();
  };
  canvas.addEventListener("pointerdown", down);
  window.addEventListener("pointerup", up);
  controls.addEventListener("change", change);
  return () => {
    canvas.removeEventListener("pointerdown", down);
    window.removeEventListener("pointerup", up);
    controls.removeEventListener("change", change);
  };
}
