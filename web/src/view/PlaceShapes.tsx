import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { BufferAttribute, BufferGeometry, DoubleSide } from "three";
import type { Vec3 } from "../api/build";
import { type Curved, type Measured, type Placed, planeCorners } from "../construct/places";
import type { Palette } from "../theme";
import { FatLines } from "./FatLines";

interface Props {
  places: Placed[];
  measures: Measured[];
  curves: Curved[];
  chosen: string | null;
  /** Size of the part, mm: axes are drawn through it, points as small crosses. */
  size: number;
  palette: Palette;
}

const point = (p: Placed, t: number): Vec3 => [0, 1, 2].map((i) => p.origin[i]! + t * p.direction[i]!) as Vec3;

/** What a place looks like as pairs of points: a plane's border with a tick along its normal, an axis, a cross. */
function linesOf(p: Placed, size: number): number[] {
  if (p.shape === "plane") {
    const c = planeCorners(p);
    const tick = size * 0.05;
    return [...[0, 1, 2, 3].flatMap((i) => [...c[i]!, ...c[(i + 1) % 4]!]), ...p.origin, ...point(p, tick)];
  }
  if (p.shape === "axis") {
    const r = Math.max(p.reach * 1.3, size * 0.12);
    // A long dash, a dot, a long dash: drawn as pieces, so that it reads as a centre line at any distance.
    const out: number[] = [];
    const dash = r / 7;
    for (let t = -r; t < r; t += 2 * dash) {
      out.push(...point(p, t), ...point(p, Math.min(t + 1.3 * dash, r)));
      out.push(...point(p, t + 1.55 * dash), ...point(p, Math.min(t + 1.7 * dash, r)));
    }
    return out;
  }
  const s = size * 0.014;
  return [0, 1, 2].flatMap((k) => {
    const a = [...p.origin];
    const b = [...p.origin];
    a[k]! -= s;
    b[k]! += s;
    return [...a, ...b];
  });
}

function Sheet({ corners, colour, opacity }: { corners: Vec3[]; colour: string; opacity: number }) {
  const geometry = useMemo(() => {
    const made = new BufferGeometry();
    made.setAttribute("position", new BufferAttribute(new Float32Array(corners.flat()), 3));
    made.setIndex([0, 1, 2, 0, 2, 3]);
    return made;
  }, [corners]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  return (
    <mesh geometry={geometry} renderOrder={6}>
      <meshBasicMaterial color={colour} transparent opacity={opacity} side={DoubleSide} depthWrite={false} />
    </mesh>
  );
}

/** Construction planes, axes, points and curves, and the lines of measurements. */
export function PlaceShapes({ places, measures, curves, chosen, size, palette }: Props) {
  const invalidate = useThree((s) => s.invalidate);
  const drawn = useMemo(
    () =>
      places.map((p) => {
        const on = p.passing || p.id === chosen;
        return {
          id: p.id + p.passing,
          on,
          corners: p.shape === "plane" ? planeCorners(p) : null,
          lines: new Float32Array(linesOf(p, size)),
        };
      }),
    [places, chosen, size],
  );
  const measured = useMemo(
    () => measures.map((m) => ({ ...m, lines: new Float32Array(m.from && m.to ? [...m.from, ...m.to] : []) })),
    [measures],
  );
  const curved = useMemo(
    () =>
      curves.map((c) => ({
        ...c,
        lines: new Float32Array(c.line.slice(1).flatMap((p, i) => [...c.line[i]!, ...p])),
      })),
    [curves],
  );
  useEffect(() => invalidate(), [invalidate]);
  return (
    <group>
      {drawn.map((d) => (
        <group key={d.id}>
          {d.corners && (
            <Sheet corners={d.corners} colour={d.on ? palette.active : palette.quiet} opacity={d.on ? 0.1 : 0.06} />
          )}
          <FatLines
            segments={d.lines}
            colour={d.on ? palette.active : palette.quiet}
            width={d.on ? 2 : 1.3}
            opacity={0.85}
            onTop={!d.corners || d.on}
          />
        </group>
      ))}
      {curved.map((c) => (
        <FatLines
          key={c.id + c.passing}
          segments={c.lines}
          colour={c.passing || c.id === chosen ? palette.active : palette.plum}
          width={2.6}
        />
      ))}
      {measured.map((m) => (
        <FatLines
          key={m.id + m.passing}
          segments={m.lines}
          colour={m.passing || m.id === chosen ? palette.active : palette.ink}
          width={m.passing || m.id === chosen ? 2.6 : 1.8}
        />
      ))}
    </group>
  );
}
