import { useEffect, useMemo } from "react";
import { CanvasTexture, SpriteMaterial } from "three";
import type { Vec3 } from "../api/build";
import type { Palette } from "../theme";
import { FatLines } from "./FatLines";

interface Props {
  /** Length of the axes, mm. */
  size: number;
  palette: Palette;
}

function lettered(text: string, colour: string): SpriteMaterial {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 64;
  const pen = canvas.getContext("2d");
  if (pen) {
    pen.font = "600 44px sans-serif";
    pen.textAlign = "center";
    pen.textBaseline = "middle";
    pen.fillStyle = colour;
    pen.fillText(text, 32, 34);
  }
  return new SpriteMaterial({ map: new CanvasTexture(canvas), depthTest: false, transparent: true });
}

/** The axes everything is measured in, at their origin; each axis has its letter and its own end: tick count 1, 2, 3. */
export function WorldFrame({ size, palette }: Props) {
  const letters = useMemo(() => ["x", "y", "z"].map((a) => lettered(a, palette.ink)), [palette.ink]);
  useEffect(
    () => () => {
      for (const m of letters) {
        m.map?.dispose();
        m.dispose();
      }
    },
    [letters],
  );
  const lines = useMemo(() => {
    const out: number[] = [];
    for (let a = 0; a < 3; a++) {
      const end = [0, 0, 0];
      end[a] = size;
      out.push(0, 0, 0, ...end);
      for (let t = 0; t <= a; t++) {
        const from = [0, 0, 0];
        const to = [0, 0, 0];
        from[a] = to[a] = size * (0.9 - 0.06 * t);
        from[(a + 1) % 3] = -0.03 * size;
        to[(a + 1) % 3] = 0.03 * size;
        out.push(...from, ...to);
      }
    }
    return new Float32Array(out);
  }, [size]);
  return (
    <group>
      <FatLines segments={lines} colour={palette.ink} width={1.4} opacity={0.75} />
      {letters.map((material, a) => {
        const at: Vec3 = [0, 0, 0];
        at[a] = size * 1.1;
        return (
          <sprite
            key={"xyz"[a]}
            material={material}
            position={at}
            scale={[size * 0.16, size * 0.16, 1]}
            renderOrder={12}
          />
        );
      })}
    </group>
  );
}
