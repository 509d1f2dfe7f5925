import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { packU4, unpackU4 } from "../view/buffers";
import { usePicks } from "./picks";

/** The region under the picks, grown by the server whenever picks, kind or tolerance change. */
export function useGrow() {
  const { job, scanKey } = useBench();
  const { seeds, removed, surface, tolerance, hand } = usePicks();
  const byHand = useQuery({
    // The choice itself is too long for a key: its length and ends tell it from the one before.
    queryKey: ["picked", job.id, scanKey, surface, hand?.length, hand?.[0], hand?.at(-1), hand && checksum(hand)],
    enabled: hand !== null,
    retry: false,
    gcTime: 5_000,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      got(
        api.POST("/api/jobs/{job_id}/picked", {
          params: { path: { job_id: job.id } },
          body: { scan: scanKey, facets: packU4(hand!), surface },
          signal,
        }),
      ),
  });
  const query = useQuery({
    queryKey: ["grow", job.id, scanKey, seeds, removed, surface, tolerance],
    enabled: seeds.length > 0,
    retry: false,
    gcTime: 30_000,
    placeholderData: seeds.length > 1 || removed.length > 0 ? keepPreviousData : undefined,
    queryFn: ({ signal }) =>
      got(
        api.POST("/api/jobs/{job_id}/grow", {
          params: { path: { job_id: job.id } },
          body: { scan: scanKey, seeds, removed, surface, tolerance: tolerance || null },
          signal,
        }),
      ),
  });
  const packed = seeds.length > 0 ? query.data?.facets : undefined;
  const facets = useMemo(() => (packed === undefined ? null : unpackU4(packed)), [packed]);
  if (hand) return { grown: byHand.data, facets: hand, problem: byHand.error, busy: byHand.isFetching };
  return { grown: seeds.length > 0 ? query.data : undefined, facets, problem: query.error, busy: query.isFetching };
}

function checksum(values: Uint32Array): number {
  let sum = 0;
  for (const v of values) sum = (sum * 31 + v) | 0;
  return sum;
}
