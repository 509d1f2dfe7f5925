import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import {
  AlwaysStencilFunc,
  BackSide,
  type BufferGeometry,
  DecrementWrapStencilOp,
  DoubleSide,
  FrontSide,
  IncrementWrapStencilOp,
  MeshBasicMaterial,
  NotEqualStencilFunc,
  type Plane,
  Quaternion,
  ReplaceStencilOp,
  Vector3,
  type WebGLRenderer,
} from "three";
import type { Vec3 } from "../api/build";
import type { Palette } from "../theme";
import { FatLines } from "../view/FatLines";
import { cutOfGeometry } from "./CutLines";
import { hatch } from "./hatch";

interface Props {
  geometry: BufferGeometry;
  /** Where the group that the cap stands in lies. */
  origin: [number, number, number];
  plane: Plane;
  /** Which body it is: its strokes lean its own way, and it is counted apart from the others. */
  number: number;
  palette: Palette;
}

/** Backs of the cut body are counted up, fronts down: where more backs are seen the plane runs through material. */
function counting(side: typeof BackSide | typeof FrontSide, plane: Plane): MeshBasicMaterial {
  const op = side === BackSide ? IncrementWrapStencilOp : DecrementWrapStencilOp;
  return new MeshBasicMaterial({
    side,
    clippingPlanes: [plane],
    colorWrite: false,
    depthWrite: false,
    depthTest: false,
    stencilWrite: true,
    stencilFunc: AlwaysStencilFunc,
    stencilFail: op,
    stencilZFail: op,
    stencilZPass: op,
  });
}

/** The cut face of a solid body, hatched. Counted in the stencil, so that it needs no outline and costs two more passes of the body. */
export function Cap({ geometry, origin, plane, number, palette }: Props) {
  const invalidate = useThree((s) => s.invalidate);
  const counts = useMemo(() => [counting(BackSide, plane), counting(FrontSide, plane)], [plane]);
  const face = useMemo(() => {
    const made = hatch(palette, number);
    made.side = DoubleSide; // the plane's normal points into what is kept, away from who looks at the cut
    made.stencilWrite = true;
    made.stencilRef = 0;
    made.stencilFunc = NotEqualStencilFunc;
    made.stencilFail = ReplaceStencilOp;
    made.stencilZFail = ReplaceStencilOp;
    made.stencilZPass = ReplaceStencilOp;
    // The kept half of the body ends in the same plane.
    made.polygonOffset = true;
    made.polygonOffsetFactor = -1;
    made.polygonOffsetUnits = -1;
    return made;
  }, [palette, number]);
  useEffect(() => {
    invalidate();
    return () => {
      for (const m of counts) m.dispose();
      face.dispose();
    };
  }, [counts, face, invalidate]);
  const ball = useMemo(() => {
    if (!geometry.boundingSphere) geometry.computeBoundingSphere();
    return geometry.boundingSphere!;
  }, [geometry]);
  const { at, turn } = useMemo(() => {
    const shift = new Vector3(...origin);
    const foot = plane.projectPoint(ball.center.clone().add(shift), new Vector3());
    return { at: foot.sub(shift), turn: new Quaternion().setFromUnitVectors(new Vector3(0, 0, 1), plane.normal) };
  }, [ball, origin, plane]);
  const outline = useMemo(
    () => cutOfGeometry(geometry, at.toArray() as Vec3, plane.normal.toArray() as Vec3),
    [geometry, at, plane],
  );
  // Counted and drawn body by body: after each the count begins anew.
  const order = 1 + 0.001 * (number + 1);
  return (
    <>
      {counts.map((material) => (
        <mesh key={material.uuid} geometry={geometry} material={material} renderOrder={order} />
      ))}
      <mesh
        position={at}
        quaternion={turn}
        material={face}
        renderOrder={order + 0.0005}
        onAfterRender={(gl: WebGLRenderer) => gl.clearStencil()}
      >
        <planeGeometry args={[2.2 * ball.radius, 2.2 * ball.radius]} />
      </mesh>
      {/* A hair in front of the cut, or the two would fight for the same depth. */}
      <group position={plane.normal.clone().multiplyScalar(-0.002 * ball.radius)}>
        <FatLines segments={outline} colour={palette.ink} width={1.6} onTop={false} />
      </group>
    </>
  );
}
