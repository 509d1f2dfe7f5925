import type { StepState } from "../api/build";
import type { Step } from "../api/client";
import { factsOf } from "../api/facts";
import { FromRegion } from "../construct/FromRegion";
import { RegionTools } from "../regions/RegionTools";
import type { KindView, PartProps } from "./kindView";
import { RegionForm } from "./RegionForm";

function Below({ params, step, state, onChange }: PartProps) {
  if (!step || state?.status !== "ok") return null;
  return (
    <>
      <RegionForm
        step={step.id}
        leaveWorn={Boolean(params.leave_worn)}
        onLeave={(leave_worn) => onChange({ leave_worn })}
      />
      <RegionTools key={step.id} region={step.id} />
    </>
  );
}

function Actions({ step, state }: { step: Step; state: StepState }) {
  const facts = factsOf(state.facts, "region");
  return facts && <FromRegion region={step.id} kind={facts.kind} />;
}

export const view: KindView = { Below, Actions };
