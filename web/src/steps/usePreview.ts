import { useCallback, useEffect, useRef } from "react";
import type { StepState } from "../api/build";
import { api, type Edit, got, ProblemError } from "../api/client";
import { useBench } from "../job/context";
import { inversePose, timesPose } from "../view/pose";
import { usePassing } from "./passing";

const REST_MS = 20;
/** A picture comes with every key; how it would fit the scan, once nothing has been typed for so long. */
const FIT_REST_MS = 250;

/** What a preview is of: parameters, or the steps that are copied. */
export const aboutOf = (edit: Edit): unknown =>
  "params" in edit ? edit.params : edit.op === "duplicate-steps" ? edit.steps : null;

/** Grips of the step that is not in the job yet. */
function newest(of: Record<string, StepState["handles"]>, steps: readonly { id: string }[]): StepState["handles"] {
  const known = new Set(steps.map((s) => s.id));
  return Object.entries(of).find(([id]) => !known.has(id))?.[1] ?? [];
}

/** Shows what an edit would give while it is typed or dragged; the next one ends it, and `clear` takes it away. */
export function usePreview() {
  const { job, tell, scanId, pose } = useBench();
  const set = usePassing((s) => s.set);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const running = useRef<AbortController>(undefined);
  const clear = useCallback(() => {
    clearTimeout(timer.current);
    running.current?.abort();
    const { preview, laid, looking, refused, settled } = usePassing.getState();
    if (preview || laid || looking || refused || settled)
      set({
        preview: null,
        fit: null,
        fitting: false,
        laid: null,
        looking: false,
        settled: null,
        refused: null,
        passing: {},
        handles: [],
        without: [],
      });
  }, [set]);
  const show = useCallback(
    (edit: Edit) => {
      clearTimeout(timer.current);
      timer.current = setTimeout(() => {
        running.current?.abort();
        const control = new AbortController();
        running.current = control;
        set({ looking: true, fitting: true });
        const ask = (with_fit: boolean) =>
          got(
            api.POST("/api/jobs/{job_id}/preview", {
              params: { path: { job_id: job.id } },
              body: { edit, with_fit },
              signal: control.signal,
            }),
          );
        const askFit = () =>
          ask(true)
            .then((found) => !control.signal.aborted && set({ fit: found.fit ?? null, fitting: false }))
            // The picture has said already what is wrong.
            .catch(() => !control.signal.aborted && set({ fit: null, fitting: false }));
        ask(false)
          .then((found) => {
            if (control.signal.aborted) return;
            set({
              looking: false,
              settled: aboutOf(edit),
              refused: found.problems[0] ?? null,
              passing: found.facts,
              without: found.passed,
              // A value being typed that does not work leaves the grips where they were.
              ...(found.problems.length === 0 ? { handles: newest(found.handles, job.recipe.steps) } : {}),
            });
            const facts = Object.values(found.facts).find((f) => f.of === "align");
            const scan = found.scans.find((s) => s.id === scanId);
            // An alignment is shown by laying the scan down as it would be; the bodies wait until it is kept.
            if (facts && scan) set({ laid: { matrix: timesPose(scan.pose, inversePose(pose)), facts }, preview: null });
            else set({ preview: found.problems.length === 0 ? found.bodies : null, laid: null });
            const changed = !facts && found.problems.length === 0 && found.bodies.some((b) => b.view);
            if (changed && scanId) timer.current = setTimeout(askFit, FIT_REST_MS);
            else set({ fit: null, fitting: false });
          })
          .catch((e: unknown) => {
            // A half-typed formula is no news; it is said when it is committed.
            if (!control.signal.aborted) set({ looking: false, settled: aboutOf(edit), fit: null, fitting: false });
            if (!control.signal.aborted && !(e instanceof ProblemError)) tell(e);
          });
      }, REST_MS);
    },
    [job.id, job.recipe.steps, set, tell, scanId, pose],
  );
  // What was committed is on its way as the real thing.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new revision makes any preview old
  useEffect(() => clear, [clear, job.revision]);
  return { show, clear };
}
