import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { api, got } from "../api/client";
import type { components } from "../api/schema";
import { useBench } from "../job/context";

export type EdgeFacts = components["schemas"]["EdgeFacts"];
export type CornerFacts = components["schemas"]["CornerFacts"];
export type Borders = components["schemas"]["BordersOut"];

export const bordersQuestion = (job: string, key: string) => ({
  queryKey: ["borders", job, key],
  staleTime: Number.POSITIVE_INFINITY,
  queryFn: (): Promise<Borders> =>
    got(api.GET("/api/jobs/{job_id}/products/{key}/borders", { params: { path: { job_id: job, key } } })),
});

/** Edges and corners of a body by the key of its product, in the order of the view's numbers. */
export function useBorders(key: string | null): Borders | undefined {
  const { job } = useBench();
  return useQuery({ ...bordersQuestion(job.id, key ?? ""), enabled: key !== null }).data;
}

export function useFetchBorders(): (key: string) => Promise<Borders> {
  const { job } = useBench();
  const client = useQueryClient();
  return useCallback((key) => client.fetchQuery(bordersQuestion(job.id, key)), [client, job.id]);
}
