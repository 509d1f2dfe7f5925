import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { LineMaterial } from "three/addons/lines/LineMaterial.js";
import { LineSegments2 } from "three/addons/lines/LineSegments2.js";
import { LineSegmentsGeometry } from "three/addons/lines/LineSegmentsGeometry.js";

interface Props {
  /** Pairs of points, xyz xyz … */
  segments: Float32Array;
  colour: string;
  width: number;
  /** Of the usual length, or drawn and left out, mm. */
  dashed?: boolean | [number, number];
  opacity?: number;
  onTop?: boolean;
}

/** Lines of a width in pixels, drawn over what is behind them unless told otherwise. */
export function FatLines({ segments, colour, width, dashed = false, opacity = 1, onTop = true }: Props) {
  const size = useThree((s) => s.size);
  const invalidate = useThree((s) => s.invalidate);
  const dashes = dashed !== false;
  const [drawn, left] = typeof dashed === "object" ? dashed : [1.6, 1];
  const object = useMemo(() => {
    if (!segments.length) return null;
    const geometry = new LineSegmentsGeometry();
    geometry.setPositions(segments);
    const material = new LineMaterial({
      color: colour,
      linewidth: width,
      dashed: dashes,
      dashSize: drawn,
      gapSize: left,
      transparent: true,
      opacity,
      depthTest: !onTop,
      depthWrite: false,
    });
    const line = new LineSegments2(geometry, material);
    if (dashes) line.computeLineDistances();
    line.renderOrder = 10;
    line.frustumCulled = false;
    return line;
  }, [segments, colour, width, dashes, drawn, left, opacity, onTop]);
  useEffect(() => {
    invalidate();
    if (!object) return undefined;
    object.material.resolution.set(size.width, size.height);
    return () => {
      object.geometry.dispose();
      object.material.dispose();
    };
  }, [object, size, invalidate]);
  return object ? <primitive object={object} /> : null;
}
