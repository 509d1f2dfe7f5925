import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { api, type FaceFacts, got } from "../api/client";
import { useBench } from "../job/context";

export const facesQuestion = (job: string, key: string) => ({
  queryKey: ["faces", job, key],
  staleTime: Number.POSITIVE_INFINITY,
  queryFn: (): Promise<FaceFacts[]> =>
    got(api.GET("/api/jobs/{job_id}/products/{key}/faces", { params: { path: { job_id: job, key } } })),
});

/** Faces of a body by the key of its product, in the order of the view's face numbers. */
export function useFaces(key: string | null): FaceFacts[] {
  const { job } = useBench();
  const { data } = useQuery({ ...facesQuestion(job.id, key ?? ""), enabled: key !== null });
  return data ?? [];
}

export function useFetchFaces(): (key: string) => Promise<FaceFacts[]> {
  const { job } = useBench();
  const client = useQueryClient();
  return useCallback((key) => client.fetchQuery(facesQuestion(job.id, key)), [client, job.id]);
}
