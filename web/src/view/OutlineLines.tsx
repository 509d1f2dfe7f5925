import { useMemo } from "react";
import { BufferAttribute } from "three";
import type { Palette } from "../theme";
import { FatLines } from "./FatLines";
import { type DrawnPiece, drawingOf } from "./paths";

/** Outline pieces in our codes: lines ink with square ends, arcs plum with a tick, free pieces dashed; dotted what is assumed. */
export function OutlineLines({ pieces, palette, tick }: { pieces: DrawnPiece[]; palette: Palette; tick: number }) {
  const drawing = useMemo(() => drawingOf(pieces, tick), [pieces, tick]);
  return (
    <>
      <FatLines segments={drawing.off} colour={palette.quiet} width={1.2} opacity={0.55} />
      <FatLines segments={drawing.line} colour={palette.ink} width={2.6} />
      <FatLines segments={drawing.arc} colour={palette.plum} width={2.6} />
      <FatLines segments={drawing.free} colour={palette.below} width={2.6} dashed />
      <FatLines segments={drawing.assumed} colour={palette.ink} width={3} dashed={[0.7 * tick, 0.9 * tick]} />
      {drawing.ends.length > 0 && (
        <points key={drawing.ends.length} renderOrder={11} frustumCulled={false}>
          <bufferGeometry ref={(g) => void g?.setAttribute("position", new BufferAttribute(drawing.ends, 3))} />
          <pointsMaterial color={palette.ink} size={6} sizeAttenuation={false} depthTest={false} transparent />
        </points>
      )}
    </>
  );
}
