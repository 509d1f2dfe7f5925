import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { csrfToken, ProblemError } from "../api/client";
import { asJob, type Job } from "../api/queries";
import { useBench } from "../job/context";

/** Sends a small file (a picture, a table) to a route of the job that answers with the job. Raises ProblemError. */
export function useSendFile(): (route: string, file: File, query?: Record<string, string>) => Promise<Job> {
  const { job } = useBench();
  const client = useQueryClient();
  const { id, version } = job;
  return useCallback(
    async (route, file, query = {}) => {
      const form = new FormData();
      form.append("file", file);
      const now = client.getQueryData<Job>(["job", id])?.version ?? version;
      const asked = new URLSearchParams({ version: String(now), ...query });
      const answer = await fetch(`/api/jobs/${id}/${route}?${asked}`, {
        method: "POST",
        headers: { "X-CSRFToken": csrfToken() },
        body: form,
      });
      const body = await answer.json();
      if (!answer.ok) throw new ProblemError(body.problem, answer.status);
      const next = asJob(body);
      client.setQueryData(["job", id], next);
      return next;
    },
    [client, id, version],
  );
}
