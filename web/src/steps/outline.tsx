import { Button } from "antd";
import type { StepState } from "../api/build";
import type { Step } from "../api/client";
import { factsOf } from "../api/facts";
import { useDrawOver } from "../sketch/useDrawOver";
import type { KindView } from "./kindView";

/** A section's outline can go on as a drawing; a turned profile or a shadow has no section that it could follow. */
function Actions({ step, state }: { step: Step; state: StepState }) {
  const over = useDrawOver();
  const facts = factsOf(state.facts, "outline");
  if (!facts || (step.params.source ?? "section") !== "section") return null;
  return (
    <Button title="its pieces as a drawing, with relations and sizes" onClick={() => void over(step, facts.tolerance)}>
      Draw over it
    </Button>
  );
}

export const view: KindView = { Actions };
