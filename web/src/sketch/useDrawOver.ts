import { api, got, type Step } from "../api/client";
import { useBench } from "../job/context";
import type { TakenLoop } from "../section/pieces";
import { useTool } from "../sheets/tool";
import { type Act, frameParams } from "./drawing";

/** Makes a drawing of an outline that was taken: its pieces as entities that follow the scan, in the same axes, right after it. */
export function useDrawOver(): (outline: Step, within: number) => Promise<void> {
  const { job, edit, tell } = useBench();
  return async (outline, within) => {
    const loops = (outline.params.loops as TakenLoop[]).map((l) => ({ ...l, name: "" }));
    const take: Act = { act: "take", loops, within, relate: true };
    try {
      const shown = await got(
        api.POST("/api/jobs/{job_id}/drawing", {
          params: { path: { job_id: job.id } },
          body: { drawing: { made: 0 }, acts: [take] },
        }),
      );
      const id = crypto.randomUUID();
      const params = { ...frameParams(outline.params), ...shown.drawing };
      if (await edit({ op: "add-step", id, kind: "sketch", after: outline.id, params })) useTool.getState().select(id);
    } catch (e) {
      tell(e);
    }
  };
}
