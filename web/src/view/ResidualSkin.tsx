import { useEffect, useMemo } from "react";
import { BufferAttribute, BufferGeometry, DoubleSide } from "three";
import { useClipPlanes } from "../clip/clip";
import type { Palette } from "../theme";
import { colourise } from "./deviation";
import type { ScanGeometry } from "./geometry";
import { reducedOf, shownFacets } from "./reduced";

interface Props {
  scan: ScanGeometry;
  facets: Uint32Array;
  /** Residual of each of the facets, mm. */
  values: Float32Array;
  /** What counts as nothing, mm; four times it has the full colour. */
  still: number;
  palette: Palette;
}

/** A region coloured by how far it lies off its own surface. */
export function ResidualSkin({ scan, facets, values, still, palette }: Props) {
  const geometry = useMemo(() => {
    const position = scan.surface.getAttribute("position");
    const index = scan.surface.index!.array;
    const reduced = reducedOf(scan.surface);
    const of = new Map<number, number>();
    facets.forEach((f, k) => {
      of.set(reduced ? reduced.shownBy[f]! : f, values[k]!);
    });
    const shown = reduced ? shownFacets(reduced, facets) : facets;
    const chosen = new Uint32Array(shown.length * 3);
    const sum = new Float32Array(position.count);
    const count = new Uint16Array(position.count);
    shown.forEach((f, i) => {
      const value = of.get(f) ?? 0;
      for (let k = 0; k < 3; k++) {
        const v = index[3 * f + k]!;
        chosen[3 * i + k] = v;
        sum[v]! += value;
        count[v]! += 1;
      }
    });
    for (let v = 0; v < sum.length; v++) if (count[v]) sum[v]! /= count[v]!;
    const g = new BufferGeometry();
    g.setAttribute("position", position);
    g.setAttribute("normal", scan.surface.getAttribute("normal"));
    g.setAttribute("color", new BufferAttribute(colourise(sum, still, palette), 3, true));
    g.setIndex(new BufferAttribute(chosen, 1));
    return g;
  }, [scan, facets, values, still, palette]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  const planes = useClipPlanes();
  return (
    <mesh geometry={geometry} position={scan.origin} renderOrder={4}>
      <meshLambertMaterial
        vertexColors
        side={DoubleSide}
        clippingPlanes={planes}
        polygonOffset
        polygonOffsetFactor={-3}
        polygonOffsetUnits={-3}
      />
    </mesh>
  );
}
