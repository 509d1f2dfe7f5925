import { useQuery } from "@tanstack/react-query";
import { api, got } from "../api/client";
import { useKinds } from "../api/kinds";
import type { components } from "../api/schema";
import { useBench } from "../job/context";

export type SketchPaths = components["schemas"]["SketchOut"];

export const sketchQuestion = (job: string, key: string | null) => ({
  queryKey: ["sketch", job, key],
  enabled: key !== null,
  staleTime: Number.POSITIVE_INFINITY,
  queryFn: (): Promise<SketchPaths> =>
    got(api.GET("/api/jobs/{job_id}/products/{key}/sketch", { params: { path: { job_id: job, key: key! } } })),
});

/** Paths of a step's sketch. */
export function useSketch(stepId: string | null): SketchPaths | undefined {
  const { job } = useBench();
  const kinds = useKinds();
  const state = job.build.result?.steps.find((s) => s.id === stepId && kinds[s.kind]?.makes === "sketch");
  const key = state?.key ?? null;
  const { data } = useQuery(sketchQuestion(job.id, key));
  return key ? data : undefined;
}
