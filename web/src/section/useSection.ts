import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import type { SectionDraft } from "./draft";

const REST_MS = 180;

function useRested<T>(value: T): T {
  const [rested, setRested] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setRested(value), REST_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return rested;
}

/** The plane as requests say it. */
export const planeOf = (d: SectionDraft, scan: string) => ({
  scan,
  source: d.source,
  origin: d.origin,
  normal: d.normal,
  turn_u: d.turnU,
  turn_v: d.turnV,
  offset: d.offset || "0",
  outward: d.outward ?? null,
});

/** What tells two planes apart, for the query cache. */
export const planeKey = (d: SectionDraft | null) => [
  d?.source,
  d?.origin,
  d?.normal,
  d?.turnU,
  d?.turnV,
  d?.offset,
  d?.outward,
];

/** A section as requests say it. */
export const sectionOf = (d: SectionDraft, scan: string, fitted: boolean) => ({
  ...planeOf(d, scan),
  tolerance: d.tolerance || null,
  fitted,
  loops: fitted ? d.edited : null,
  bridge: d.bridge,
  wishes: d.wishes,
});

/** The raw cut follows every move; the outline is fitted when the plane rests. */
export function useSection() {
  const { job, scanKey } = useBench();
  const draft = useTool((s) => s.section);
  const rested = useRested(draft);
  const ask = (d: SectionDraft, fitted: boolean, signal: AbortSignal) =>
    got(
      api.POST("/api/jobs/{job_id}/section", {
        params: { path: { job_id: job.id } },
        body: sectionOf(d, scanKey, fitted),
        signal,
      }),
    );
  const raw = useQuery({
    queryKey: ["cut", job.id, scanKey, ...planeKey(draft)],
    // A turned profile or a shadow takes a while: it comes with its outline.
    enabled: draft !== null && draft.source === "section",
    retry: false,
    gcTime: 5_000,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => ask(draft!, false, signal),
  });
  const fitted = useQuery({
    queryKey: [
      "outline",
      job.id,
      scanKey,
      ...planeKey(rested),
      rested?.tolerance,
      rested?.edited,
      rested?.bridge,
      rested?.wishes,
    ],
    enabled: rested !== null && draft !== null,
    retry: false,
    gcTime: 30_000,
    queryFn: ({ signal }) => ask(rested!, true, signal),
  });
  const same =
    JSON.stringify([planeKey(draft), draft?.tolerance]) === JSON.stringify([planeKey(rested), rested?.tolerance]);
  const resting =
    same && draft?.edited === rested?.edited && draft?.bridge === rested?.bridge && draft?.wishes === rested?.wishes;
  const now = draft?.source === "section" ? raw.data : fitted.data;
  return {
    raw: draft ? now : undefined,
    fitted: draft && resting ? fitted.data : undefined,
    problem: fitted.error ?? raw.error,
    busy: fitted.isFetching || !resting,
  };
}

/** Several planes at once: parallel ones, or a fan about an axis. */
export function useSeveral() {
  const { job, scanKey } = useBench();
  const draft = useTool((s) => s.section);
  const several = draft?.several ?? null;
  const { data } = useQuery({
    queryKey: ["sections", job.id, scanKey, ...planeKey(draft), several],
    enabled: draft !== null && several !== null && draft.source === "section",
    retry: false,
    gcTime: 10_000,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      got(
        api.POST("/api/jobs/{job_id}/sections", {
          params: { path: { job_id: job.id } },
          body: {
            ...planeOf(draft!, scanKey),
            kind: several!.kind,
            count: several!.count,
            step: several!.step,
            axis: several!.axis ?? null,
            axis_origin: several!.axisOrigin ?? null,
          },
          signal,
        }),
      ),
  });
  return draft && several ? (data ?? []) : [];
}
