import { useFrame, useThree } from "@react-three/fiber";
import { Button, Select } from "antd";
import { useEffect, useMemo } from "react";
import { OrthographicCamera, PerspectiveCamera, Vector3 } from "three";
import { useAppearance } from "./appearance";
import { secondBox } from "./secondBox";
import { SIDES } from "./sides";
import { stage, standBack } from "./stage";

/** How far the first eye stands back, so that what filled the view fills its half. */
const ROOM = 1.6;
const UP = new Vector3(0, 0, 1);

/** Draws the view, and into a corner of it the same place from another side, as near as the first eye is. */
export function SecondCamera() {
  const key = useAppearance((s) => s.second);
  const wide = useAppearance((s) => s.secondWide) && key !== null;
  const { camera: own, size, invalidate } = useThree();
  const camera = useMemo(() => new PerspectiveCamera(), []);
  const side = SIDES.find((s) => s.key === key);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another side is another picture, and so is none
  useEffect(() => {
    invalidate();
    return () => invalidate();
  }, [side, wide, invalidate]);
  // Beside a second view of half the room the first one looks from the middle of its own half.
  useEffect(() => {
    if (!wide || !(own instanceof PerspectiveCamera || own instanceof OrthographicCamera)) return undefined;
    const target = stage.now?.controls?.target;
    const step = (factor: number) => target && own.position.copy(standBack(own.position, target, factor));
    step(ROOM);
    own.setViewOffset(size.width, size.height, size.width / 4, 0, size.width, size.height);
    invalidate();
    return () => {
      own.clearViewOffset();
      step(1 / ROOM);
      invalidate();
    };
  }, [wide, own, size, invalidate]);
  useFrame(({ gl, scene, camera: first, size }) => {
    gl.setScissorTest(false);
    gl.setViewport(0, 0, size.width, size.height);
    gl.render(scene, first);
    const target = stage.now?.controls?.target;
    if (!side || !target || !(first instanceof PerspectiveCamera)) return;
    const box = secondBox(size, wide);
    const away = first.position.distanceTo(target) / (wide ? ROOM : 1);
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
  const { second, secondWide, set } = useAppearance();
  if (!second) return null;
  return (
    <section className={secondWide ? "second-view wide" : "second-view"} aria-label="Second view">
      <div className="second-head">
        <Select
          size="small"
          aria-label="Side of the second view"
          value={second}
          options={SIDES.map((s) => ({ value: s.key, label: s.name }))}
          onChange={(key: string) => set({ second: key })}
        />
        <Button
          size="small"
          aria-pressed={secondWide}
          title={secondWide ? "back into the corner" : "half of the room, side by side"}
          onClick={() => set({ secondWide: !secondWide })}
        >
          {secondWide ? "In the corner" : "Half"}
        </Button>
        <Button size="small" aria-label="Close the second view" onClick={() => set({ second: null })}>
          ×
        </Button>
      </div>
    </section>
  );
}
