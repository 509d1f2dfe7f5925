import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { api, got, ProblemError, upload } from "../api/client";
import { asJob, type Job } from "../api/queries";
import { useBench } from "../job/context";
import { useSeen } from "../job/seen";
import { useLive } from "../job/useTask";

/** Another scan, or a file of solids, into this job: sent, read, and taken in the unit its size looks like (which can be changed afterwards). */
export function useAddScan() {
  const { job, tell } = useBench();
  const client = useQueryClient();
  const live = useLive();
  const set = useSeen((s) => s.set);
  const [busy, setBusy] = useState(false);
  const take = useCallback(
    async (id: string, unit: string) => {
      const version = client.getQueryData<Job>(["job", job.id])?.version ?? job.version;
      const out = await got(
        api.POST("/api/jobs/{job_id}/scans", {
          params: { path: { job_id: job.id } },
          body: { version, upload: id, unit, role: "part" },
        }),
      );
      client.setQueryData<Job>(["job", job.id], asJob(out));
      const added = out.recipe.evidence?.findLast((e) => e.kind === "scan");
      if (added) set({ scan: added.id });
    },
    [client, job.id, job.version, set],
  );
  const takeSolid = useCallback(
    async (id: string) => {
      const version = client.getQueryData<Job>(["job", job.id])?.version ?? job.version;
      const { asOf } = useSeen.getState();
      const out = await got(
        api.POST("/api/jobs/{job_id}/solids", {
          params: { path: { job_id: job.id } },
          body: { version, upload: id, unit: null, role: "material", after: asOf },
        }),
      );
      client.setQueryData<Job>(["job", job.id], asJob(out));
    },
    [client, job.id, job.version],
  );
  const bring = useCallback(
    async (file: File) => {
      setBusy(true);
      try {
        let row = await upload(file, () => undefined);
        while (live() && !row.facts && !row.problem) {
          await new Promise((r) => setTimeout(r, 200));
          row = await got(api.GET("/api/uploads/{upload_id}", { params: { path: { upload_id: row.id } } }));
        }
        if (row.problem) throw new ProblemError(row.problem, 422);
        if (row.facts && "bodies" in row.facts) await takeSolid(row.id);
        else if (row.facts) await take(row.id, row.facts.unit_guess);
      } catch (e) {
        tell(e);
      } finally {
        setBusy(false);
      }
    },
    [live, take, takeSolid, tell],
  );
  return { busy, bring, take };
}
