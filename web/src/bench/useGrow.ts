import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { api, got } from "../api/client";
import { unpackU4 } from "../view/buffers";
import { useBench } from "./context";
import { usePicks } from "./stores";

/** The region under the picks, grown by the server whenever picks, kind or tolerance change. */
export function useGrow() {
  const { job, scanId } = useBench();
  const { seeds, removed, surface, tolerance } = usePicks();
  const query = useQuery({
    queryKey: ["grow", job.id, scanId, seeds, removed, surface, tolerance],
    enabled: seeds.length > 0,
    retry: false,
    gcTime: 30_000,
    placeholderData: seeds.length > 1 || removed.length > 0 ? keepPreviousData : undefined,
    queryFn: ({ signal }) =>
      got(
        api.POST("/api/jobs/{job_id}/grow", {
          params: { path: { job_id: job.id } },
          body: { scan: scanId, seeds, removed, surface, tolerance: tolerance || null },
          signal,
        }),
      ),
  });
  const packed = seeds.length > 0 ? query.data?.facets : undefined;
  const facets = useMemo(() => (packed === undefined ? null : unpackU4(packed)), [packed]);
  return { grown: seeds.length > 0 ? query.data : undefined, facets, problem: query.error, busy: query.isFetching };
}
