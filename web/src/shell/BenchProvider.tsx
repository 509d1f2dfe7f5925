import { App as AntApp } from "antd";
import { type ReactNode, useCallback, useMemo } from "react";
import { type Edit, ProblemError } from "../api/client";
import { type Job, useEdit } from "../api/queries";
import { Bench, type BenchContext } from "../job/context";
import { useSeen } from "../job/seen";
import { usePassing } from "../steps/passing";
import { aboutOf } from "../steps/usePreview";
import type { Palette } from "../theme";
import type { Unit } from "../units";
import { STILL } from "../view/pose";

/** Says what went wrong, in passing. */
function useTell() {
  const { message } = AntApp.useApp();
  return useCallback(
    (error: unknown) => {
      const said = error instanceof ProblemError ? [error.problem, ...error.also] : [];
      const lines = said.map((p) => `${p.message}${p.remedy ? `. Try: ${p.remedy}` : ""}`);
      message.error(lines.join(" · ") || String(error), lines.length > 1 ? 10 : 6);
    },
    [message],
  );
}

/** Makes one change of the job; a state that somebody else has changed meanwhile is asked about. */
function useChange(job: Job, tell: (error: unknown) => void) {
  const { modal } = AntApp.useApp();
  const { mutateAsync } = useEdit(job.id);
  return useCallback(
    async function change(wanted: Edit): Promise<boolean> {
      const { asOf, set } = useSeen.getState();
      // While the job is seen as of a step, what is new goes right after it.
      const placed = wanted.op === "add-step" && asOf && !wanted.after ? { ...wanted, after: asOf } : wanted;
      const { preview, settled, set: pass } = usePassing.getState();
      const about = aboutOf(placed);
      const seen = preview && about && JSON.stringify(settled) === JSON.stringify(about);
      pass({ awaited: seen ? { bodies: preview, revision: null } : null });
      try {
        const { revision } = await mutateAsync(placed);
        if (seen) pass({ awaited: { bodies: preview, revision } });
        if (placed.op === "add-step" && asOf && placed.id) set({ asOf: placed.id });
        return true;
      } catch (e) {
        pass({ awaited: null });
        if (e instanceof ProblemError && e.problem.code === "stale-revision")
          modal.confirm({
            title: "The job was changed somewhere else",
            content:
              "In another window or by another sign-in. The newer state is shown now; your change is not in it yet.",
            okText: "Make my change again",
            cancelText: "Leave it out",
            onOk: () => change(wanted).then(() => undefined),
          });
        else tell(e);
        return false;
      }
    },
    [mutateAsync, tell, modal],
  );
}

/** What every part of the bench asks for: the job, its unit, the scan on the bench, and how to change things. */
export function BenchProvider({ job, palette, children }: { job: Job; palette: Palette; children: ReactNode }) {
  const tell = useTell();
  const edit = useChange(job, tell);
  const chosen = useSeen((s) => s.scan);
  const asOf = useSeen((s) => s.asOf);
  const value = useMemo<BenchContext>(() => {
    const scans = job.recipe.evidence.filter((e) => e.kind === "scan");
    const scanId = (scans.find((e) => e.id === chosen) ?? scans[0])?.id ?? "";
    const result = job.build.result;
    const then = asOf ? result?.steps.find((s) => s.id === asOf)?.scans?.[scanId] : undefined;
    const into = result?.merged?.[scanId];
    return {
      job,
      palette,
      unit: job.recipe.unit as Unit,
      scanId,
      // A scan that went into another can still be looked at as it came.
      scanKey: then ?? result?.scans[scanId] ?? (into ? result?.raw?.[scanId] : undefined) ?? "",
      pose: result?.poses?.[scanId] ?? STILL,
      edit,
      tell,
    };
  }, [job, palette, edit, tell, chosen, asOf]);
  return <Bench.Provider value={value}>{children}</Bench.Provider>;
}
