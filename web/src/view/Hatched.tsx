import { useEffect, useMemo } from "react";
import { type BufferGeometry, DoubleSide, MeshBasicMaterial } from "three";
import { useClipPlanes } from "../clip/clip";

const APART = 8; // pixels from line to line
const WIDE = 1.5;

/** Lines over part of a surface, leaning one way or the other, as wide on screen however near it is: what a step is about to make. */
export function Hatched({ geometry, colour, lean }: { geometry: BufferGeometry; colour: string; lean: "/" | "\\" }) {
  const planes = useClipPlanes();
  const material = useMemo(() => {
    const made = new MeshBasicMaterial({ side: DoubleSide, depthWrite: false });
    made.polygonOffset = true;
    made.polygonOffsetFactor = -3;
    made.polygonOffsetUnits = -3;
    const across = lean === "/" ? "-" : "+";
    made.onBeforeCompile = (shader) => {
      shader.fragmentShader = shader.fragmentShader.replace(
        "#include <clipping_planes_fragment>",
        `#include <clipping_planes_fragment>
        if (mod(gl_FragCoord.x ${across} gl_FragCoord.y, ${APART}.0) > ${WIDE}) discard;`,
      );
    };
    made.customProgramCacheKey = () => `hatched${across}`;
    return made;
  }, [lean]);
  useEffect(() => () => material.dispose(), [material]);
  material.color.set(colour);
  material.clippingPlanes = planes;
  return <mesh geometry={geometry} material={material} renderOrder={5} />;
}
