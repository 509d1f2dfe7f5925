import type { StepState } from "../api/build";
import type { Step } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { ProblemNote } from "../ui/ProblemNote";
import { showPlace } from "../view/showPlace";
import { kindView } from "./kindViews";

/** Problems of what a step points to, not of its values. */
const MENDABLE = ["ref-lost", "ref-ambiguous", "wrong-kind"];

/** What is wrong with a step, each with a way to the place and to its repair. */
export function StepProblems({ step, state }: { step: Step; state: StepState | undefined }) {
  const mend = useTool((s) => s.mend);
  const { edit } = useBench();
  const { shows } = kindView(step.kind);
  const said = (state?.problems ?? []).filter((p) => state?.status !== "ok" || !shows?.(p));
  return said.map((p) => {
    const place = p.where?.param;
    return (
      <ProblemNote
        key={p.message + place}
        problem={p}
        onGo={showPlace}
        onTake={(params) => void edit({ op: "set-params", step: step.id, params })}
        onMend={place && MENDABLE.includes(p.code) ? () => mend(step.id, place) : undefined}
      />
    );
  });
}
