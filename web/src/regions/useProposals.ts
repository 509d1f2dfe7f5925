import { useQueryClient } from "@tanstack/react-query";
import { api, got } from "../api/client";
import { asJob } from "../api/queries";
import { useBench } from "../job/context";
import { stepNames } from "./facts";
import { useRegions } from "./store";

/** Agreeing to proposals and turning them down; what was agreed stands in the job's intent step. */
export function useProposals() {
  const { job, scanId, tell } = useBench();
  const client = useQueryClient();
  const path = () => ({ job_id: job.id, task_id: useRegions.getState().task ?? "" });
  const agree = async (at: number[]) => {
    const { found } = useRegions.getState();
    if (!found) return false;
    const numbers = [...new Set(at.flatMap((i) => found.proposals[i]?.demand?.members ?? []))];
    const rows = numbers.map((k) => found.regions[k]!);
    const names = stepNames(
      rows,
      job.recipe.steps.map((s) => s.name),
    );
    const body = {
      version: job.version,
      evidence: scanId,
      proposals: at,
      names: Object.fromEntries(numbers.map((k, i) => [k, names[i]!])),
    };
    try {
      const params = { path: path() };
      const next = await got(api.POST("/api/jobs/{job_id}/regions/{task_id}/accept", { params, body }));
      client.setQueryData(["job", job.id], asJob(next));
      return true;
    } catch (e) {
      tell(e);
      return false;
    }
  };
  const turnDown = async (at: number[], back = false) => {
    try {
      const params = { path: path() };
      const body = { proposals: at, back };
      const row = await got(api.POST("/api/jobs/{job_id}/regions/{task_id}/reject", { params, body }));
      useRegions.getState().set({ found: row.result });
    } catch (e) {
      tell(e);
    }
  };
  const intent = job.recipe.steps.find((s) => s.kind === "intent");
  const texts = ((intent?.params.relations as { text: string }[] | undefined) ?? []).map((r) => r.text);
  return { agree, turnDown, agreed: new Set(texts), intent: intent?.id ?? null };
}
