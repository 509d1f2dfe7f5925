import { useEffect, useMemo } from "react";
import { BufferAttribute, BufferGeometry } from "three";
import type { ScanGeometry } from "./geometry";
import { reducedOf, shownFacets } from "./reduced";
import { Skin } from "./Skin";

interface Props {
  scan: ScanGeometry;
  facets: Uint32Array;
  colour: string;
  opacity: number;
}

/** Picked facets as a skin of their own. */
export function RegionOverlay({ scan, facets, colour, opacity }: Props) {
  const geometry = useMemo(() => {
    const index = scan.surface.index?.array;
    const reduced = reducedOf(scan.surface);
    const shown = reduced ? shownFacets(reduced, facets) : facets;
    const chosen = new Uint32Array(shown.length * 3);
    if (index)
      for (let i = 0; i < shown.length; i++) for (let k = 0; k < 3; k++) chosen[3 * i + k] = index[3 * shown[i]! + k]!;
    const g = new BufferGeometry();
    g.setAttribute("position", scan.surface.getAttribute("position"));
    g.setAttribute("normal", scan.surface.getAttribute("normal"));
    g.setIndex(new BufferAttribute(chosen, 1));
    return g;
  }, [scan, facets]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  return <Skin geometry={geometry} colour={colour} opacity={opacity} position={scan.origin} order={3} />;
}
