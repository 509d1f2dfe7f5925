import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import type { Vec3 } from "../api/build";
import { FatLines } from "../view/FatLines";
import { onPlane, pixelSize } from "../view/stage";
import { angleAt, arcPoints, turnedBy } from "./arc";
import { useGrip } from "./useGrip";

interface Props {
  /** It turns about the axis through this place; `zero` is where it points when the value is nothing. */
  origin: Vec3;
  axis: Vec3;
  zero: Vec3;
  /** Degrees. */
  at: number;
  colour: string;
  onDrag: (deg: number) => void;
  onRelease: () => void;
}

const RADIUS_PX = 64;

/** A knob that is dragged around an axis, with the arc it has come. */
export function AngleHandle({ origin, axis, zero, at, colour, onDrag, onRelease }: Props) {
  const invalidate = useThree((s) => s.invalidate);
  const s = pixelSize(origin);
  const far = (d: Vec3, px = RADIUS_PX): Vec3 => [
    origin[0] + px * s * d[0],
    origin[1] + px * s * d[1],
    origin[2] + px * s * d[2],
  ];
  const knob = far(turnedBy(zero, axis, at));
  useGrip({
    places: () => [knob],
    measure: (x, y) => {
      const p = onPlane(x, y, origin, axis);
      return p && angleAt([p[0] - origin[0], p[1] - origin[1], p[2] - origin[2]], zero, axis, at);
    },
    at,
    onDrag,
    onRelease,
  });
  const lines = useMemo(() => {
    const path = [...arcPoints(zero, axis, at)];
    const to = (d: Vec3) => [0, 1, 2].map((i) => origin[i]! + RADIUS_PX * s * d[i]!);
    const pieces = path.slice(1).flatMap((d, k) => [...to(path[k]!), ...to(d)]);
    return new Float32Array([...origin, ...to(zero), ...origin, ...to(path.at(-1)!), ...pieces]);
  }, [origin, axis, zero, at, s]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a moved handle has to be drawn
  useEffect(() => invalidate(), [at, invalidate]);
  return (
    <>
      <FatLines segments={lines} colour={colour} width={1.6} opacity={0.9} />
      <mesh position={knob} renderOrder={20}>
        <sphereGeometry args={[7 * s, 16, 12]} />
        <meshBasicMaterial color={colour} depthTest={false} transparent />
      </mesh>
    </>
  );
}
