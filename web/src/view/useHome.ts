import { useCallback, useMemo, useRef, useState } from "react";
import { Box3, Vector3 } from "three";
import { useBench } from "../job/context";
import type { ScanGeometry } from "./geometry";
import { bodiesBox, fitView, sceneBox, stage } from "./stage";
import { useShownBodies } from "./useShownBodies";

/** The box of a scan where it lies. */
function boxOf(scan: ScanGeometry): Box3 | null {
  const box = scan.surface.boundingBox;
  return box && new Box3().copy(box).translate(new Vector3(...scan.origin));
}

/** How large what is on the bench is, and the view brought to it: once for each job, and whenever asked. */
export function useHome() {
  const { job, scanId } = useBench();
  const bodies = useShownBodies();
  const [scan, setScan] = useState<ScanGeometry | null>(null);
  /** How large the bodies of a job without a scan are, mm. */
  const [alone, setAlone] = useState(100);
  const homed = useRef<string | null>(null);
  const size = useMemo(() => {
    const box = scan?.surface.boundingBox;
    return box ? box.max.distanceTo(box.min) : alone;
  }, [scan, alone]);
  const home = useCallback((of: ScanGeometry | null) => {
    const box = of ? boxOf(of) : bodiesBox();
    if (box) fitView(box);
  }, []);
  const scanReady = useCallback(
    (s: ScanGeometry) => {
      setScan(s);
      if (homed.current === job.id) return;
      homed.current = job.id;
      home(s);
    },
    [home, job.id],
  );
  const bodyReady = useCallback(() => {
    if (scanId) return;
    const box = bodiesBox();
    setAlone(box.getSize(new Vector3()).length());
    if (homed.current === job.id) return;
    fitView(box);
    if (stage.bodies.size >= bodies.length) homed.current = job.id;
  }, [scanId, job.id, bodies.length]);
  /** Around all that is seen: copies may lie far from the scan. */
  const all = () => {
    const box = sceneBox();
    if (box.isEmpty()) home(scan);
    else fitView(box);
  };
  return { scan, size, home: all, scanReady, bodyReady };
}
