import { Button } from "antd";
import type { StepState } from "../api/build";
import type { Step } from "../api/client";
import { baseOf, sketchFacts } from "../api/facts";
import { useOpenExtrude } from "../section/useOpenExtrude";
import { useOpenRevolve } from "../section/useOpenRevolve";
import { useOpenSection } from "../section/useOpenSection";
import { useNewSketch } from "../sketch/useNewSketch";
import { faceOn } from "../view/stage";
import { kindView } from "./kindViews";
import { MoreOfSketch } from "./MoreOfSketch";

/** What usually follows from what a step has made. */
export function NextSteps({ step, state }: { step: Step; state: StepState }) {
  const section = useOpenSection();
  const extrude = useOpenExtrude();
  const revolve = useOpenRevolve();
  const draw = useNewSketch();
  if (state.status !== "ok") return null;
  const base = baseOf(state);
  const { Actions, draws } = kindView(step.kind);
  return (
    <>
      {base?.shape === "plane" && (
        <>
          <Button type="primary" onClick={() => section.ofStep(step.id)}>
            Cut a section
          </Button>
          {!draws && <Button onClick={() => void draw({ id: step.id })}>Draw on it</Button>}
          <Button onClick={() => section.ofStep(step.id, { source: "silhouette", offset: "0 mm" })}>Silhouette</Button>
          <Button onClick={() => faceOn(base.at, base.along)}>Look at it</Button>
        </>
      )}
      {base?.shape === "axis" && (
        <>
          <Button type="primary" onClick={() => section.ofStep(step.id)}>
            Turned profile
          </Button>
          <Button onClick={() => section.across(step.id)}>Cut across it</Button>
        </>
      )}
      {sketchFacts(state.facts) && (
        <>
          <Button type="primary" onClick={() => extrude(step.id)}>
            Extrude
          </Button>
          <Button onClick={() => revolve(step.id)}>Revolve</Button>
          <MoreOfSketch sketch={step.id} />
        </>
      )}
      {Actions && <Actions step={step} state={state} />}
    </>
  );
}
