import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, got } from "../api/client";
import { useBench } from "./context";
import { type SectionDraft, useTool } from "./stores";

const REST_MS = 180;

function useRested<T>(value: T): T {
  const [rested, setRested] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setRested(value), REST_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return rested;
}

/** The raw cut follows every move; the outline is fitted when the plane rests. */
export function useSection() {
  const { job, scanKey } = useBench();
  const draft = useTool((s) => s.section);
  const rested = useRested(draft);
  const ask = (d: SectionDraft, fitted: boolean, signal: AbortSignal) =>
    got(
      api.POST("/api/jobs/{job_id}/section", {
        params: { path: { job_id: job.id } },
        body: {
          scan: scanKey,
          origin: d.origin,
          normal: d.normal,
          offset: d.offset || "0",
          tolerance: d.tolerance || null,
          fitted,
        },
        signal,
      }),
    );
  const key = (d: SectionDraft | null) => [job.id, scanKey, d?.region, d?.origin, d?.normal, d?.offset];
  const raw = useQuery({
    queryKey: ["cut", ...key(draft)],
    enabled: draft !== null,
    retry: false,
    gcTime: 5_000,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => ask(draft!, false, signal),
  });
  const fitted = useQuery({
    queryKey: ["outline", ...key(rested), rested?.tolerance],
    enabled: rested !== null && draft !== null,
    retry: false,
    gcTime: 30_000,
    queryFn: ({ signal }) => ask(rested!, true, signal),
  });
  const resting = draft?.offset === rested?.offset && draft?.tolerance === rested?.tolerance;
  return {
    raw: draft ? raw.data : undefined,
    fitted: draft && resting ? fitted.data : undefined,
    problem: fitted.error ?? raw.error,
    busy: fitted.isFetching || !resting,
  };
}
