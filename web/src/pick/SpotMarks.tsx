import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { BufferAttribute, BufferGeometry, CanvasTexture } from "three";
import type { Palette } from "../theme";
import { useOffered } from "./offered";
import type { Spot, SpotMark } from "./spots";

const MARKS: SpotMark[] = ["corner", "centre", "middle"];
const SIZE = 32;

/** A corner is a filled dot, a centre a cross, a middle an upright bar: told apart by shape, not by colour. */
function drawn(mark: SpotMark, colour: string, paper: string): CanvasTexture {
  const canvas = document.createElement("canvas");
  canvas.width = SIZE;
  canvas.height = SIZE;
  const pen = canvas.getContext("2d");
  const stroke = (width: number, style: string) => {
    if (!pen) return;
    pen.lineWidth = width;
    pen.strokeStyle = style;
    pen.lineCap = "round";
    pen.beginPath();
    if (mark === "corner") pen.arc(SIZE / 2, SIZE / 2, 5, 0, 2 * Math.PI);
    if (mark === "centre")
      for (const [a, b, c, d] of [
        [8, 16, 24, 16],
        [16, 8, 16, 24],
      ] as const) {
        pen.moveTo(a, b);
        pen.lineTo(c, d);
      }
    if (mark === "middle")
      for (const x of [12, 20]) {
        pen.moveTo(x, 8);
        pen.lineTo(x, 24);
      }
    pen.stroke();
  };
  stroke(9, paper);
  stroke(4.5, colour);
  return new CanvasTexture(canvas);
}

function Marks({
  spots,
  mark,
  colour,
  paper,
  size,
}: {
  spots: readonly Spot[];
  mark: SpotMark;
  colour: string;
  paper: string;
  size: number;
}) {
  const invalidate = useThree((s) => s.invalidate);
  const map = useMemo(() => drawn(mark, colour, paper), [mark, colour, paper]);
  const geometry = useMemo(() => {
    const made = new BufferGeometry();
    made.setAttribute("position", new BufferAttribute(Float32Array.from(spots.flatMap((s) => s.at)), 3));
    return made;
  }, [spots]);
  useEffect(() => {
    invalidate();
    return () => {
      geometry.dispose();
      invalidate();
    };
  }, [geometry, invalidate]);
  useEffect(() => () => map.dispose(), [map]);
  return (
    <points geometry={geometry} renderOrder={12} frustumCulled={false}>
      <pointsMaterial map={map} size={size} sizeAttenuation={false} transparent depthTest={false} depthWrite={false} />
    </points>
  );
}

/** Spots that can be taken, and the one the pointer is at. */
export function SpotMarks({ spots, palette }: { spots: readonly Spot[]; palette: Palette }) {
  const over = useOffered((s) => s.over);
  return (
    <>
      {MARKS.map((mark) => {
        const own = spots.filter((s) => s.mark === mark);
        return (
          own.length > 0 && (
            <Marks key={mark} spots={own} mark={mark} colour={palette.ink} paper={palette.sheet} size={13} />
          )
        );
      })}
      {over && "mark" in over && (
        <Marks spots={[over]} mark={over.mark} colour={palette.active} paper={palette.sheet} size={22} />
      )}
    </>
  );
}
