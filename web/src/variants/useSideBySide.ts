import { useEffect, useRef, useState } from "react";
import { api, type Column, got } from "../api/client";
import { useBench } from "../job/context";
import { finished, useLive } from "../job/useTask";
import { usePointed } from "../view/pointed";

interface Built {
  /** The state of the job that it is of. */
  revision: number;
  columns: Column[];
}

/** Builds the job and its variants beside each other, and shows in the view what one of them moves. */
export function useSideBySide() {
  const { job, tell } = useBench();
  const set = usePointed((s) => s.set);
  const live = useLive();
  const [built, setBuilt] = useState<Built | null>(null);
  const [busy, setBusy] = useState(false);
  /** The variant whose difference is shown, and how far it moves the surface; none while it is being measured. */
  const [shown, setShown] = useState<{ id: string; largest: number | null } | null>(null);
  const asked = useRef("");
  const path = { job_id: job.id };
  // biome-ignore lint/correctness/useExhaustiveDependencies: what moved is of the job as it was
  useEffect(() => () => set({ moved: null }), [set, job.revision]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the same
  useEffect(() => {
    asked.current = "";
    setShown(null);
  }, [job.revision]);
  const build = async () => {
    setBusy(true);
    try {
      const task = await got(api.POST("/api/jobs/{job_id}/variants", { params: { path } }));
      const at = { params: { path: { ...path, task_id: task.id } } };
      const row = await finished(task, () => got(api.GET("/api/jobs/{job_id}/variants/{task_id}", at)), live);
      if (live() && row.result) setBuilt({ revision: job.revision, columns: row.result.columns });
    } catch (e) {
      tell(e);
    }
    if (live()) setBusy(false);
  };
  const look = async (id: string) => {
    set({ moved: null });
    asked.current = shown?.id === id ? "" : id;
    if (!asked.current) return setShown(null);
    setShown({ id, largest: null });
    // An answer counts while it is still the one that is wanted.
    const wanted = () => live() && asked.current === id;
    try {
      const out = await got(api.POST("/api/jobs/{job_id}/compare", { params: { path }, body: { variant: id } }));
      const at = { params: { path: { ...path, task_id: out.task.id } } };
      const row = await finished(out.task, () => got(api.GET("/api/jobs/{job_id}/compare/{task_id}", at)), wanted);
      const moved = row.result?.moved;
      if (!wanted()) return;
      if (moved) set({ moved: { url: `/api/jobs/${job.id}/compare/${out.task.id}/view`, largest: moved.largest } });
      setShown({ id, largest: moved?.largest ?? 0 });
    } catch (e) {
      if (!wanted()) return;
      setShown(null);
      tell(e);
    }
  };
  const columns = built?.columns ?? [];
  return { columns, stale: built !== null && built.revision !== job.revision, busy, build, look, shown };
}
