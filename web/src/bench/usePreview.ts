import { useCallback, useEffect, useRef } from "react";
import { api, type Edit, got, ProblemError } from "../api/client";
import { useBench } from "./context";
import { useLook } from "./stores";

const REST_MS = 20;

/** Shows what an edit would give while it is typed or dragged; the next one ends it, and `clear` takes it away. */
export function usePreview() {
  const { job, tell } = useBench();
  const set = useLook((s) => s.set);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const running = useRef<AbortController>(undefined);
  const clear = useCallback(() => {
    clearTimeout(timer.current);
    running.current?.abort();
    if (useLook.getState().preview) set({ preview: null });
  }, [set]);
  const show = useCallback(
    (edit: Edit) => {
      clearTimeout(timer.current);
      timer.current = setTimeout(() => {
        running.current?.abort();
        const control = new AbortController();
        running.current = control;
        const ask = api.POST("/api/jobs/{job_id}/preview", {
          params: { path: { job_id: job.id } },
          body: { edit },
          signal: control.signal,
        });
        got(ask)
          .then((found) => {
            if (!control.signal.aborted) set({ preview: found.problems.length === 0 ? found.bodies : null });
          })
          .catch((e: unknown) => {
            // A half-typed formula is no news; it is said when it is committed.
            if (!control.signal.aborted && !(e instanceof ProblemError)) tell(e);
          });
      }, REST_MS);
    },
    [job.id, set, tell],
  );
  // What was committed is on its way as the real thing.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new revision makes any preview old
  useEffect(() => clear, [clear, job.revision]);
  return { show, clear };
}
