import { useCallback, useState } from "react";
import { api, got, type MovedScan } from "../api/client";
import { useBench } from "../job/context";
import { finished, useLive } from "../job/useTask";
import { usePointed } from "../view/pointed";
import { flyTo } from "../view/stage";

export type ScanMoved = MovedScan;

/** A map of what mends changed, against the raw scan or an earlier state; shown in the view until it is put away. */
export function useScanMoved() {
  const { job, scanId, tell } = useBench();
  const set = usePointed((s) => s.set);
  const live = useLive();
  const [moved, setMoved] = useState<ScanMoved | "measuring" | null>(null);
  const clear = useCallback(() => {
    setMoved(null);
    set({ moved: null });
  }, [set]);
  const measure = useCallback(
    async (before: string | null, after: string | null) => {
      setMoved("measuring");
      const path = { job_id: job.id };
      try {
        const first = await got(
          api.POST("/api/jobs/{job_id}/scan-moved", { params: { path }, body: { scan: scanId, before, after } }),
        );
        const task = { params: { path: { ...path, task_id: first.id } } };
        const row = await finished(first, () => got(api.GET("/api/jobs/{job_id}/scan-moved/{task_id}", task)), live);
        if (!live() || !row.result) return;
        const found = row.result;
        setMoved(found);
        if (found.largest !== 0) flyTo(found.largest_at, found.outward, 70);
        set({ moved: { url: `/api/jobs/${job.id}/scan-moved/${first.id}/view`, largest: found.largest } });
      } catch (e) {
        setMoved(null);
        tell(e);
      }
    },
    [job.id, scanId, set, tell, live],
  );
  return { moved, measure, clear };
}
