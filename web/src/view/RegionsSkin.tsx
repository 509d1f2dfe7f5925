import { useEffect, useMemo } from "react";
import { BufferAttribute, BufferGeometry, DoubleSide } from "three";
import { useClipPlanes } from "../clip/clip";
import type { Palette } from "../theme";
import { isCoarse } from "./coarse";
import type { ScanGeometry } from "./geometry";
import { reducedOf } from "./reduced";
import { regionColours, type Shown } from "./regionColours";

interface Props {
  scan: ScanGeometry;
  labels: Int32Array;
  regions: readonly Shown[];
  palette: Palette;
}

/** The scan coloured by its regions, drawn over it. */
export function RegionsSkin({ scan, labels, regions, palette }: Props) {
  const coarse = isCoarse(scan.surface);
  const geometry = useMemo(() => {
    // Few facets share few vertices: each facet is drawn by itself, in the colour of its own region.
    const surface = coarse ? scan.surface.toNonIndexed() : scan.surface;
    const position = surface.getAttribute("position");
    const index = surface.index?.array ?? Uint32Array.from({ length: position.count }, (_, k) => k);
    const g = new BufferGeometry();
    g.setAttribute("position", position);
    if (!coarse) g.setAttribute("normal", surface.getAttribute("normal"));
    const colours = regionColours(index, position.count, labels, regions, reducedOf(scan.surface), palette);
    g.setAttribute("color", new BufferAttribute(colours, 3, true));
    if (coarse) g.computeVertexNormals();
    else g.setIndex(surface.index);
    return g;
  }, [scan, coarse, labels, regions, palette]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  const planes = useClipPlanes();
  return (
    <mesh geometry={geometry} position={scan.origin} renderOrder={1}>
      <meshLambertMaterial
        vertexColors
        side={DoubleSide}
        clippingPlanes={planes}
        polygonOffset
        polygonOffsetFactor={-1}
        polygonOffsetUnits={-1}
      />
    </mesh>
  );
}
