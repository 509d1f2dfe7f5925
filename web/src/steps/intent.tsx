import type { StepFacts, StepState } from "../api/build";
import { factsOf } from "../api/facts";
import { IntentForm } from "../regions/IntentForm";
import { length, type Unit } from "../units";
import type { KindView, PartProps } from "./kindView";
import { some } from "./rows";

function Form({ params, step, state, onChange }: PartProps) {
  return <IntentForm step={step?.id ?? null} params={params} state={state} onChange={onChange} />;
}

function Word({ state }: { state: StepState }) {
  const facts = factsOf(state.facts, "intent");
  return facts && <>{facts.agreed} agreed</>;
}

function rows(facts: StepFacts, unit: Unit) {
  const f = factsOf(facts, "intent");
  if (!f) return [];
  return some(
    ["Agreed", String(f.agreed)],
    ["Costliest", `${f.dearest.toFixed(1)} u`],
    ["Largest shift", length(f.largest_shift, unit, 1)],
  );
}

export const view: KindView = { rows, Form, Word };
