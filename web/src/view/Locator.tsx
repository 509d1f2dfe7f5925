import { useMemo } from "react";
import type { Vec3 } from "../api/build";
import { FatLines } from "./FatLines";

interface Props {
  point: Vec3;
  radius: number;
  colour: string;
}

const TURNS = 40;

/** Three rings about a place, drawn over everything: seen from any side, whatever lies in front. */
export function Locator({ point, radius, colour }: Props) {
  const segments = useMemo(() => {
    const out = new Float32Array(3 * TURNS * 6);
    let at = 0;
    for (let axis = 0; axis < 3; axis++)
      for (let i = 0; i < TURNS; i++)
        for (const k of [i, i + 1]) {
          const turn = (k / TURNS) * 2 * Math.PI;
          const p = [...point];
          p[(axis + 1) % 3]! += radius * Math.cos(turn);
          p[(axis + 2) % 3]! += radius * Math.sin(turn);
          out.set(p, at);
          at += 3;
        }
    return out;
  }, [point, radius]);
  return <FatLines segments={segments} colour={colour} width={1.6} opacity={0.9} />;
}
