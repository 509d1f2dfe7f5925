import { useEffect, useMemo } from "react";
import { BufferAttribute, BufferGeometry, DoubleSide } from "three";
import { useClipPlanes } from "../clip/clip";
import type { Palette } from "../theme";
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
  const geometry = useMemo(() => {
    const position = scan.surface.getAttribute("position");
    const index = scan.surface.index!;
    const g = new BufferGeometry();
    g.setAttribute("position", position);
    g.setAttribute("normal", scan.surface.getAttribute("normal"));
    const colours = regionColours(index.array, position.count, labels, regions, reducedOf(scan.surface), palette);
    g.setAttribute("color", new BufferAttribute(colours, 3, true));
    g.setIndex(index);
    return g;
  }, [scan, labels, regions, palette]);
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
