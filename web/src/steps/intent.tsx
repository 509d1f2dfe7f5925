import type { StepState } from "../api/build";
import { factsOf } from "../api/facts";
import { IntentForm } from "../regions/IntentForm";
import type { KindView, PartProps } from "./kindView";

function Form({ params, step, state, onChange }: PartProps) {
  return <IntentForm step={step?.id ?? null} params={params} state={state} onChange={onChange} />;
}

function Word({ state }: { state: StepState }) {
  const facts = factsOf(state.facts, "intent");
  return facts && <>{facts.agreed} agreed</>;
}

export const view: KindView = { Form, Word };
