import { useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import type { Box3, PerspectiveCamera } from "three";
import { hasLeft } from "./keptInView";
import { fitView, stage } from "./stage";

/** The view goes after what is put elsewhere, an alignment that is being prepared say, if all of it was in the view and no longer is. */
export function useFollowingView(box: Box3 | null) {
  const camera = useThree((s) => s.camera) as PerspectiveCamera;
  const before = useRef<Box3 | null>(null);
  useEffect(() => {
    const was = before.current;
    before.current = box;
    const { controls } = stage.now ?? {};
    if (!was || !box || !controls) return;
    if (hasLeft(was, box, camera)) fitView(box, camera.position.clone().sub(controls.target).normalize());
  }, [box, camera]);
}
