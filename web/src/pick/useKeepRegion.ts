import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { packU4 } from "../view/buffers";
import { usePicks } from "./picks";
import { useSelecting } from "./selecting";
import { useGrow } from "./useGrow";

/** Makes a step of the region in hand; gives its id, or none when it could not be kept. */
export function useKeepRegion(): () => Promise<string | null> {
  const { job, scanId, scanKey, edit, tell } = useBench();
  const { grown } = useGrow();
  return async () => {
    const picks = usePicks.getState();
    if (!grown) return null;
    const id = crypto.randomUUID();
    const surface = picks.surface === "auto" ? grown.surface.kind : picks.surface;
    let params: Record<string, unknown> = {
      scan: { id: scanId },
      seeds: grown.source_seeds,
      removed: grown.source_removed,
      surface,
      tolerance: picks.tolerance ? { text: picks.tolerance, mark: "assumed" } : null,
    };
    if (picks.hand) {
      const body = { scan: scanKey, facets: packU4(picks.hand), surface };
      try {
        const kept = await got(
          api.POST("/api/jobs/{job_id}/keep-picked", { params: { path: { job_id: job.id } }, body }),
        );
        params = { scan: { id: scanId }, picked: kept, surface };
      } catch (e) {
        tell(e);
        return null;
      }
    }
    if (!(await edit({ op: "add-step", id, kind: "region", params }))) return null;
    picks.clear();
    useSelecting.getState().set({ by: "click" });
    return id;
  };
}
