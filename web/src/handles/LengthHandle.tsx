import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { Quaternion, Vector3 } from "three";
import type { Vec3 } from "../api/build";
import { alongLine, pixelSize } from "../view/stage";
import { useGrip } from "./useGrip";

interface Props {
  /** The line the handle runs on and where it is now, mm along it. */
  origin: Vec3;
  direction: Vec3;
  at: number;
  colour: string;
  onDrag: (mm: number) => void;
  onRelease: () => void;
}

const along = (p: Vec3, d: Vec3, t: number): Vec3 => [p[0] + t * d[0], p[1] + t * d[1], p[2] + t * d[2]];

/** An arrow that is dragged along its own line. */
export function LengthHandle({ origin, direction, at, colour, onDrag, onRelease }: Props) {
  const invalidate = useThree((s) => s.invalidate);
  const place = useMemo(() => along(origin, direction, at), [origin, direction, at]);
  const turn = useMemo(
    () => new Quaternion().setFromUnitVectors(new Vector3(0, 1, 0), new Vector3(...direction).normalize()),
    [direction],
  );
  useGrip({
    places: () => [along(place, direction, 46 * pixelSize(place)), place],
    measure: (x, y) => alongLine(x, y, origin, direction),
    at,
    onDrag,
    onRelease,
  });
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
