import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { api, got, ProblemError } from "../api/client";
import { asJob } from "../api/queries";
import { useBench } from "../job/context";
import { useLive } from "../job/useTask";
import { stepNames } from "./facts";
import { useRegions } from "./store";

export interface Progress {
  what: string;
  percent: number;
}

/** What was typed, mm²; none where nothing was, or nothing that is a number. */
function leastArea(typed: string): number | null {
  const area = Number(typed.replace(",", "."));
  return typed.trim() === "" || !(area >= 0) ? null : area;
}

/** Looks for the regions of the scan in the background, and keeps chosen ones as steps. */
export function useFindRegions() {
  const { job, scanId, scanKey, tell } = useBench();
  const client = useQueryClient();
  const live = useLive();
  const regions = useRegions();
  const [progress, setProgress] = useState<Progress | null>(null);
  const find = async (protect: string[]) => {
    if (!scanKey) return;
    const path = { job_id: job.id };
    setProgress({ what: "waiting", percent: 0 });
    try {
      const body = {
        scan: scanKey,
        coarseness: regions.coarseness,
        least_area: leastArea(regions.least),
        protect,
      };
      let row = await got(api.POST("/api/jobs/{job_id}/regions", { params: { path }, body }));
      regions.set({ task: row.id });
      const own = { params: { path: { ...path, task_id: row.id } } };
      while (live() && (row.status === "queued" || row.status === "running")) {
        await new Promise((r) => setTimeout(r, 250));
        row = await got(api.GET("/api/jobs/{job_id}/regions/{task_id}", own));
        const { name, done } = row.progress ?? {};
        if (live() && name) setProgress({ what: name, percent: done ?? 0 });
      }
      if (!live() || row.status === "cancelled") return;
      if (row.problem) throw new ProblemError(row.problem, 422);
      const answer = await fetch(`/api/jobs/${job.id}/regions/${row.id}/labels`);
      const labels = new Int32Array(await answer.arrayBuffer());
      regions.set({ found: row.result, labels, scan: scanKey, chosen: [], hidden: [] });
    } catch (e) {
      tell(e);
    } finally {
      if (live()) setProgress(null);
    }
  };
  /** What the last search on this state of the scan found; whether there was one. */
  const recall = useCallback(async (): Promise<boolean> => {
    if (!scanKey || useRegions.getState().scan === scanKey) return true;
    const params = { path: { job_id: job.id }, query: { scan: scanKey } };
    const row = await got(api.GET("/api/jobs/{job_id}/regions", { params }));
    if (useRegions.getState().scan === scanKey) return true;
    if (!row) return false;
    const answer = await fetch(`/api/jobs/${job.id}/regions/${row.id}/labels`);
    const labels = new Int32Array(await answer.arrayBuffer());
    const found = row.result;
    useRegions.getState().set({ task: row.id, found, labels, scan: scanKey, chosen: [], hidden: [] });
    return true;
  }, [job.id, scanKey]);
  const stop = async () => {
    const { task } = useRegions.getState();
    if (!task) return;
    const params = { path: { job_id: job.id, task_id: task } };
    await got(api.DELETE("/api/jobs/{job_id}/regions/{task_id}", { params })).catch(tell);
  };
  /** Steps that the regions have become; none where they cannot. */
  const keep = async (ids: number[]): Promise<string[] | null> => {
    const { task, found } = useRegions.getState();
    if (!task || !found || !scanId) return null;
    const rows = ids.map((id) => found.regions[id]!).filter((r) => r.kind !== "freeform");
    if (rows.length === 0) return null;
    const taken = job.recipe.steps.map((s) => s.name);
    const body = {
      version: job.version,
      evidence: scanId,
      regions: rows.map((r) => r.id),
      names: stepNames(rows, taken),
    };
    try {
      const params = { path: { job_id: job.id, task_id: task } };
      const next = await got(api.POST("/api/jobs/{job_id}/regions/{task_id}/keep", { params, body }));
      client.setQueryData(["job", job.id], asJob(next));
      const before = new Set(job.recipe.steps.map((s) => s.id));
      return next.recipe.steps.map((s) => s.id).filter((id) => !before.has(id));
    } catch (e) {
      tell(e);
      return null;
    }
  };
  return { find, recall, stop, keep, progress };
}
