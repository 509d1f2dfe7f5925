import type { StepFacts, StepState } from "../api/build";
import type { Step } from "../api/client";
import { factsOf } from "../api/facts";
import { FromRegion } from "../construct/FromRegion";
import { useBench } from "../job/context";
import { regionShape } from "../pick/begunBy";
import { RegionTools } from "../regions/RegionTools";
import { surfaceName, surfaceSize } from "../ui/surfaces";
import { area, count, length, typed, type Unit } from "../units";
import type { KindView, PartProps } from "./kindView";
import { RegionForm } from "./RegionForm";
import { some } from "./rows";
import { inSentence } from "./stepValues";

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
  const { unit } = useBench();
  const facts = factsOf(state.facts, "region");
  return (
    facts && (
      <FromRegion
        region={step.id}
        shape={regionShape({ kind: facts.kind, outward: facts.inside ? -1 : 1 })}
        diameter={facts.diameter == null ? null : typed(facts.diameter, unit)}
      />
    )
  );
}

/** What a person would ask of it: how large, and where it has no size, what it is. How far facets may lie off is in its sheet. */
function Word({ state }: { state: StepState }) {
  const { unit } = useBench();
  const facts = factsOf(state.facts, "region");
  if (!facts) return null;
  return <>{surfaceSize(facts, unit) || inSentence(surfaceName(facts.kind, facts.inside === true))}</>;
}

function rows(facts: StepFacts, unit: Unit) {
  const f = factsOf(facts, "region");
  if (!f) return [];
  const name = inSentence(surfaceName(f.kind, Boolean(f.inside)));
  return some(
    ["Surface", `${name} ${surfaceSize(f, unit)}`.trim()],
    ["Facets", count(f.facets)],
    ["Area", area(f.area, unit)],
    ["Rms", length(f.rms, unit, 1)],
    ["Largest deviation", length(Math.abs(f.largest), unit, 1)],
    f.u != null && ["Uncertainty", `± ${length(f.u, unit, 2)}`],
    f.left_out > 0 && ["Left out as worn", `${count(f.left_out)} facets`],
  );
}

export const view: KindView = { rows, Below, Actions, Word, wordAlone: true };
