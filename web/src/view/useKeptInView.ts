import { useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import type { PerspectiveCamera, Vector3 } from "three";
import { fartherFor } from "./keptInView";
import { sceneBox, stage, standBack } from "./stage";

/** A sheet that opens takes room from the side: what was in the view stays in it, and comes back when it closes. */
export function useKeptInView() {
  const camera = useThree((s) => s.camera) as PerspectiveCamera;
  const invalidate = useThree((s) => s.invalidate);
  const aspect = useThree((s) => s.size.width / Math.max(s.size.height, 1));
  const before = useRef(aspect);
  // How far the camera was moved back for a view narrower than it was, and where that left it.
  const moved = useRef<{ mm: number; left: Vector3; was: number } | null>(null);
  useEffect(() => {
    const was = before.current;
    before.current = aspect;
    const { controls } = stage.now ?? {};
    if (!controls || was === aspect) return;
    const back = camera.position.clone().sub(controls.target).normalize();
    const own = moved.current;
    moved.current = null;
    if (own && aspect > was && camera.position.distanceTo(own.left) < 1e-6 * own.left.length()) {
      if (aspect < own.was) moved.current = own;
      else camera.position.addScaledVector(back, -own.mm);
    } else {
      const mm = fartherFor(sceneBox(), camera, was, aspect);
      if (mm === null)
        camera.position.copy(standBack(camera.position, controls.target, Math.min(1, was) / Math.min(1, aspect)));
      else if (mm > 0) {
        camera.position.addScaledVector(back, mm);
        moved.current = { mm, left: camera.position.clone(), was };
      }
    }
    invalidate();
  }, [aspect, camera, invalidate]);
}
