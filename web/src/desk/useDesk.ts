import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import { api, type Desk, got } from "../api/client";
import { useBench } from "../job/context";

/** Which reading takes go to, and in which session. */
export const useFocus = create<{
  reading: string | null;
  session: string | null;
  /** Values that a caliper sent and that the reading in focus could not take. */
  stuck: number;
  set: (part: { reading?: string | null; session?: string | null; stuck?: number }) => void;
}>((set) => ({ reading: null, session: null, stuck: 0, set: (part) => set(part) }));

/** What the server says beside the readings, for the job as it is. */
export function useDesk() {
  const { job } = useBench();
  return useQuery<Desk>({
    queryKey: ["desk", job.id, job.revision, job.build.current],
    queryFn: () => got(api.GET("/api/jobs/{job_id}/desk", { params: { path: { job_id: job.id } } })),
    placeholderData: (old) => old,
  });
}
