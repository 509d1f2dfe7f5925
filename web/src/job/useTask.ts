import { useCallback, useEffect, useRef } from "react";
import { type Problem, ProblemError } from "../api/client";

interface Task {
  status: "queued" | "running" | "done" | "failed" | "cancelled";
  problem: Problem | null;
}

/** Waits for a background task: asks again until it is over, and gives its result or throws its problem. */
export async function finished<T extends Task>(first: T, look: () => Promise<T>, live: () => boolean): Promise<T> {
  let row = first;
  while (live() && (row.status === "queued" || row.status === "running")) {
    await new Promise((r) => setTimeout(r, 150));
    row = await look();
  }
  if (row.problem) throw new ProblemError(row.problem, 422);
  return row;
}

/** Whether the part that began something is still on screen. */
export function useLive(): () => boolean {
  const live = useRef(true);
  useEffect(() => {
    live.current = true;
    return () => {
      live.current = false;
    };
  }, []);
  return useCallback(() => live.current, []);
}
