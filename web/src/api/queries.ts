/** Server data: one hook per question, all in the query cache. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { Build } from "./build";
import { api, type Edit, got, type JobOut, ProblemError, setCsrf } from "./client";

export function useWho() {
  return useQuery({
    queryKey: ["who"],
    queryFn: async () => {
      const who = await got(api.GET("/api/session"));
      setCsrf(who.csrf);
      return who;
    },
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useShelf() {
  return useQuery({ queryKey: ["shelf"], queryFn: () => got(api.GET("/api/jobs")), refetchInterval: 3000 });
}

export type Job = Omit<JobOut, "build"> & { build: Build };

const edited = { at: 0 };

/** What has a default is always in an answer, though the schema says it need not be. */
export const asJob = (out: JobOut): Job => out as Job;

/** The job, asked again every 100 ms for two seconds after an edit, then every half second while something runs. */
export function useJob(id: string) {
  const client = useQueryClient();
  return useQuery({
    queryKey: ["job", id],
    queryFn: async () => {
      const asked = asJob(await got(api.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } })));
      // What was asked for before an edit may be answered after it: the job never goes back.
      const known = client.getQueryData<Job>(["job", id]);
      return known && asked.version < known.version ? known : asked;
    },
    refetchInterval: (query) => {
      const status = query.state.data?.build.status;
      if (status !== "queued" && status !== "running") return false;
      return Date.now() - edited.at < 2000 ? 100 : 500;
    },
  });
}

/** Changes of one job go one after another: the next is made on what the last one left, however fast somebody clicks. */
const inTurn = (id: string) => ({ id: `job-${id}` });

export function useEdit(id: string) {
  const client = useQueryClient();
  return useMutation({
    scope: inTurn(id),
    mutationFn: async (edit: Edit) => {
      const job = client.getQueryData<Job>(["job", id]);
      const body = { version: job?.version ?? 0, edit };
      return asJob(await got(api.POST("/api/jobs/{job_id}/edits", { params: { path: { job_id: id } }, body })));
    },
    onSuccess: (job) => {
      edited.at = Date.now();
      client.setQueryData(["job", id], job);
    },
    onError: (error) => {
      // Somebody else moved the job on: show the newer state beside the message.
      if (error instanceof ProblemError && error.status === 409) client.invalidateQueries({ queryKey: ["job", id] });
    },
  });
}

export function useMove(id: string) {
  const client = useQueryClient();
  return useMutation({
    scope: inTurn(id),
    mutationFn: async (direction: "undo" | "redo") => {
      const job = client.getQueryData<Job>(["job", id]);
      const body = { version: job?.version ?? 0, direction };
      return asJob(await got(api.POST("/api/jobs/{job_id}/head", { params: { path: { job_id: id } }, body })));
    },
    onSuccess: (job) => {
      edited.at = Date.now();
      client.setQueryData(["job", id], job);
    },
    onError: () => client.invalidateQueries({ queryKey: ["job", id] }),
  });
}
