import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { unpackU4 } from "../view/buffers";

/** Facets of a region step in the view's numbering, to show which one is meant. */
export function useRegion(stepId: string | null): Uint32Array | null {
  const { job, scanKey } = useBench();
  const state = job.build.result?.steps.find((s) => s.id === stepId && s.kind === "region");
  const key = state?.key ?? null;
  const { data } = useQuery({
    queryKey: ["region", job.id, key],
    enabled: key !== null,
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () =>
      got(
        api.GET("/api/jobs/{job_id}/products/{key}/region", {
          params: { path: { job_id: job.id, key: key! }, query: { scan: scanKey } },
        }),
      ),
  });
  const packed = key ? data?.facets : undefined;
  return useMemo(() => (packed === undefined ? null : unpackU4(packed)), [packed]);
}
