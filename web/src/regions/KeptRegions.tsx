import { factsOf } from "../api/facts";
import { useBench } from "../job/context";
import { useRegion } from "../pick/useRegion";
import type { ScanGeometry } from "../view/geometry";
import { RegionOverlay } from "../view/RegionOverlay";
import { kindHue } from "../view/regionColours";
import { useDrawn } from "../view/useThings";

function Kept({ id, scan }: { id: string; scan: ScanGeometry }) {
  const { job, palette } = useBench();
  const facets = useRegion(id);
  const kind = factsOf(job.build.result?.steps.find((s) => s.id === id)?.facts, "region")?.kind ?? "";
  return facets && <RegionOverlay scan={scan} facets={facets} colour={kindHue(kind, palette)} opacity={0.5} />;
}

/** Kept regions that somebody wants to see, in the colour of their kind. */
export function KeptRegions({ scan }: { scan: ScanGeometry }) {
  return useDrawn("region").map((id) => <Kept key={id} id={id} scan={scan} />);
}
