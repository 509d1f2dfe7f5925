import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, type Checkpoint, got } from "../api/client";
import { asJob, type Job } from "../api/queries";
import { useBench } from "../job/context";

/** The named states of the job, and what can be done with one. */
export function useCheckpoints() {
  const { job, tell } = useBench();
  const client = useQueryClient();
  const navigate = useNavigate();
  const path = { job_id: job.id };
  const key = ["checkpoints", job.id, job.revision];
  const { data: rows = [] } = useQuery({
    queryKey: key,
    queryFn: () => got(api.GET("/api/jobs/{job_id}/checkpoints", { params: { path } })),
  });
  const keep = (fresh: Checkpoint[]) => client.setQueryData(key, fresh);
  const add = (name: string) =>
    got(api.POST("/api/jobs/{job_id}/checkpoints", { params: { path }, body: { name } }))
      .then(keep)
      .catch(tell);
  const forget = (c: Checkpoint) =>
    got(api.DELETE("/api/jobs/{job_id}/checkpoints/{checkpoint}", { params: { path: { ...path, checkpoint: c.id } } }))
      .then(keep)
      .catch(tell);
  const back = (c: Checkpoint) =>
    got(api.POST("/api/jobs/{job_id}/return", { params: { path }, body: { version: job.version, checkpoint: c.id } }))
      .then((out) => client.setQueryData<Job>(["job", job.id], asJob(out)))
      .catch(tell);
  /** Another job that begins with this state; none: with the present one. */
  const copy = (c: Checkpoint | null) =>
    got(api.POST("/api/jobs/{job_id}/duplicate", { params: { path }, body: { checkpoint: c?.id ?? null } }))
      .then((out) => navigate(`/jobs/${out.id}`))
      .catch(tell);
  return { rows, add, forget, back, copy };
}
