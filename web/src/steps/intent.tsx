import { Button } from "antd";
import type { StepFacts, StepState } from "../api/build";
import type { Step } from "../api/client";
import { factsOf } from "../api/facts";
import { useKinds } from "../api/kinds";
import { plainParams } from "../pick/starts";
import { IntentForm } from "../regions/IntentForm";
import { useBegin } from "../sheets/useBegin";
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

interface Circle {
  kind: string;
  members: number[];
  count: number;
}

/** Holes at all places of a circle that was agreed on: where one is missing in the scan, there too. */
function Actions({ step, state }: { step: Step; state: StepState }) {
  const kinds = useKinds();
  const begin = useBegin();
  const params = step.params as { regions?: { id: string }[]; relations?: Circle[] };
  const circles = (params.relations ?? []).filter((r) => r.kind === "bolt-circle");
  if (!circles.length || !state.after || !Object.keys(state.after).length) return null;
  const drill = (circle: Circle) =>
    begin(kinds.hole, {
      ...plainParams(kinds.hole?.fields ?? []),
      by: "circle",
      axes: circle.members.map((m) => params.regions?.[m]),
      count: { text: String(circle.count), mark: "scan" },
    });
  return circles.map((c) => (
    <Button key={c.members.join()} onClick={() => drill(c)}>
      {circles.length > 1 ? `Holes on the circle of ${c.count}` : "Holes on its circle"}
    </Button>
  ));
}

export const view: KindView = { rows, Form, Word, Actions };
