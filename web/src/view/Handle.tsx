import { useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import { Quaternion, Vector3 } from "three";
import type { Vec3 } from "../api/build";
import { alongLine, pixelSize, project, stage } from "./stage";

interface Props {
  /** The line the handle runs on and where it is now, mm along it. */
  origin: Vec3;
  direction: Vec3;
  at: number;
  colour: string;
  onDrag: (mm: number) => void;
  onRelease: () => void;
}

const REACH_PX = 20;

/** An arrow that is dragged along its own line. It catches the pointer before the camera does. */
export function Handle({ origin, direction, at, colour, onDrag, onRelease }: Props) {
  const invalidate = useThree((s) => s.invalidate);
  const place = useMemo<Vec3>(
    () => [origin[0] + at * direction[0], origin[1] + at * direction[1], origin[2] + at * direction[2]],
    [origin, direction, at],
  );
  const turn = useMemo(
    () => new Quaternion().setFromUnitVectors(new Vector3(0, 1, 0), new Vector3(...direction).normalize()),
    [direction],
  );
  const now = useRef({ place, origin, direction, onDrag, onRelease });
  now.current = { place, origin, direction, onDrag, onRelease };
  useEffect(() => {
    const canvas = stage.now?.canvas;
    if (!canvas) return;
    let grabbed: number | null = null;
    const down = (e: PointerEvent) => {
      const tip = project(tipOf(now.current.place, now.current.direction));
      const foot = project(now.current.place);
      const near = (q: { x: number; y: number }) => Math.hypot(q.x - e.clientX, q.y - e.clientY) < REACH_PX;
      if (e.button !== 0 || !(near(tip) || near(foot))) return;
      const start = alongLine(e.clientX, e.clientY, now.current.place, now.current.direction);
      if (start === null) return;
      grabbed = start;
      canvas.setPointerCapture(e.pointerId);
      canvas.dataset.grabbed = "1";
      e.stopImmediatePropagation();
    };
    const move = (e: PointerEvent) => {
      if (grabbed === null) return;
      const t = alongLine(e.clientX, e.clientY, now.current.origin, now.current.direction);
      if (t !== null) now.current.onDrag(t - grabbed);
      e.stopImmediatePropagation();
    };
    const up = (e: PointerEvent) => {
      if (grabbed === null) return;
      grabbed = null;
      delete canvas.dataset.grabbed;
      e.stopImmediatePropagation();
      now.current.onRelease();
    };
    const host = canvas.parentElement ?? canvas;
    host.addEventListener("pointerdown", down, { capture: true });
    host.addEventListener("pointermove", move, { capture: true });
    host.addEventListener("pointerup", up, { capture: true });
    return () => {
      host.removeEventListener("pointerdown", down, { capture: true });
      host.removeEventListener("pointermove", move, { capture: true });
      host.removeEventListener("pointerup", up, { capture: true });
    };
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a moved handle has to be drawn
  useEffect(() => invalidate(), [place, invalidate]);
  const s = pixelSize(place);
  return (
    <group position={place} quaternion={turn} renderOrder={20}>
      <mesh position={[0, 21 * s, 0]} renderOrder={20}>
        <cylinderGeometry args={[1.6 * s, 1.6 * s, 42 * s, 10]} />
        <meshBasicMaterial color={colour} depthTest={false} transparent />
      </mesh>
      <mesh position={[0, 48 * s, 0]} renderOrder={20}>
        <coneGeometry args={[7 * s, 16 * s, 18]} />
        <meshBasicMaterial color={colour} depthTest={false} transparent />
      </mesh>
      <mesh renderOrder={20}>
        <sphereGeometry args={[5 * s, 16, 12]} />
        <meshBasicMaterial color={colour} depthTest={false} transparent />
      </mesh>
    </group>
  );
}

function tipOf(place: Vec3, direction: Vec3): Vec3 {
  const s = 46 * pixelSize(place);
  return [place[0] + s * direction[0], place[1] + s * direction[1], place[2] + s * direction[2]];
}
