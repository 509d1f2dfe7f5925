import type { Step } from "../api/client";
import { useKinds } from "../api/kinds";
import { type Begun, begun } from "../pick/starts";
import { useBench } from "./context";

/** Kinds of steps that a step begins which works on bodies and can be done again: with the bodies that it has changed. */
export function useBegunByStep(step: Step): Begun[] {
  const { job } = useBench();
  const kinds = useKinds();
  const steps = job.build.result?.steps ?? [];
  const at = steps.findIndex((s) => s.id === step.id);
  const before = steps[at - 1]?.after ?? {};
  const changed = Object.entries(steps[at]?.after ?? {}).filter(([id, key]) => before[id] && before[id] !== key);
  if (!kinds[step.kind]?.again || changed.length === 0) return [];
  const found = begun(kinds, { takes: "feature", shapes: [], refs: [{ id: step.id }] });
  return found.map((b) => ({ ...b, params: { ...b.params, bodies: changed.map(([id]) => ({ id })) } }));
}
