import { useBench } from "../job/context";
import { useArmed } from "../pick/armed";
import { usePassing } from "../steps/passing";
import { useAppearance } from "./appearance";
import type { ScanGeometry } from "./geometry";
import { usePointed } from "./pointed";
import { ScanMesh } from "./ScanMesh";

const noted = () => undefined;

interface Props {
  colours: Uint8Array<ArrayBuffer> | null;
  onReady: (scan: ScanGeometry) => void;
}

/** The scan on the bench; others faintly, while they are still by themselves: a mating part, or what is about to be merged. */
export function Scans({ colours, onReady }: Props) {
  const { job, palette, scanId, scanKey } = useBench();
  const { scanOpacity, facetEdges, hidden } = useAppearance();
  const moved = usePointed((s) => s.moved);
  const laid = usePassing((s) => s.laid);
  const armed = useArmed((s) => s.armed);
  const result = job.build.result;
  if (!scanKey) return null;
  const url = (key: string) => `/api/jobs/${job.id}/products/${key}/view`;
  const others = Object.entries(result?.scans ?? {}).filter(([e]) => e !== scanId && !hidden.includes(e));
  return (
    <>
      <ScanMesh
        url={url(scanKey)}
        palette={palette}
        opacity={moved || hidden.includes(scanId) ? 0 : colours ? 1 : scanOpacity}
        edges={facetEdges && !hidden.includes(scanId)}
        colours={!result?.fit || result.fit.scan === scanId ? colours : null}
        // Facets are picked on the scan as it lies, not as a preview lays it.
        laid={armed ? null : (laid?.matrix ?? null)}
        onReady={onReady}
      />
      {others.map(([, key]) => (
        <ScanMesh
          key={key}
          ghost
          url={url(key)}
          palette={palette}
          opacity={moved ? 0 : 0.22}
          edges={false}
          colours={null}
          onReady={noted}
        />
      ))}
    </>
  );
}
