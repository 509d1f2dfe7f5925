import { useFrame, useThree } from "@react-three/fiber";
import { Button, Select } from "antd";
import { useEffect, useMemo } from "react";
import { PerspectiveCamera, Vector3 } from "three";
import { useAppearance } from "./appearance";
import { secondBox } from "./secondBox";
import { SIDES } from "./sides";
import { stage, standBack } from "./stage";

const UP = new Vector3(0, 0, 1);

/** Draws the view, and into a corner of it the same place from another side, as near as the first eye is. */
export function SecondCamera() {
  const key = useAppearance((s) => s.second);
  const invalidate = useThree((s) => s.invalidate);
  const camera = useMemo(() => new PerspectiveCamera(), []);
  const side = SIDES.find((s) => s.key === key);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another side is another picture
  useEffect(() => invalidate(), [side, invalidate]);
  useFrame(({ gl, scene, camera: first, size }) => {
    gl.setScissorTest(false);
    gl.setViewport(0, 0, size.width, size.height);
    gl.render(scene, first);
    const target = stage.now?.controls?.target;
    if (!side || !target || !(first instanceof PerspectiveCamera)) return;
    const box = secondBox(size);
    const away = first.position.distanceTo(target);
    const from = new Vector3(...side.from).normalize();
    camera.fov = first.fov;
    camera.near = first.near;
    camera.far = first.far;
    camera.aspect = box.width / box.height;
    // From above or below z points at the eye: then y is up.
    camera.up.copy(Math.abs(from.z) > 0.99 ? new Vector3(0, 1, 0) : UP);
    camera.position.copy(standBack(target.clone().addScaledVector(from, away), target, 1 / Math.min(1, camera.aspect)));
    camera.lookAt(target);
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
    const { autoClear } = gl;
    gl.setViewport(box.x, box.y, box.width, box.height);
    gl.setScissor(box.x, box.y, box.width, box.height);
    gl.setScissorTest(true);
    gl.autoClear = true;
    gl.render(scene, camera);
    gl.autoClear = autoClear;
    gl.setScissorTest(false);
    gl.setViewport(0, 0, size.width, size.height);
  }, 1);
  return null;
}

/** The frame of the second view, with the side that it shows. */
export function SecondFrame() {
  const { second, set } = useAppearance();
  if (!second) return null;
  return (
    <section className="second-view" aria-label="Second view">
      <div className="second-head">
        <Select
          size="small"
          aria-label="Side of the second view"
          value={second}
          options={SIDES.map((s) => ({ value: s.key, label: s.name }))}
          onChange={(key: string) => set({ second: key })}
        />
        <Button size="small" aria-label="Close the second view" onClick={() => set({ second: null })}>
          ×
        </Button>
      </div>
    </section>
  );
}
