import { Button, Input } from "antd";
import { scanFacts } from "../api/facts";
import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { MendOutcome } from "../scan/MendOutcome";
import { useTool } from "../sheets/tool";
import { Facts } from "./Facts";
import { textOf } from "./formRow";
import { kindView } from "./kindViews";
import { NextSteps } from "./NextSteps";
import { SaveFlat } from "./SaveFlat";
import { StepForm } from "./StepForm";
import { StepProblems } from "./StepProblems";
import { slotsOf } from "./slotsOf";
import { usePreview } from "./usePreview";

/** The chosen step's values, what it measured, and what usually comes next. */
export function StepSheet() {
  const { job, edit } = useBench();
  const kinds = useKinds();
  const id = useTool((s) => s.step);
  const close = useTool((s) => s.close);
  const preview = usePreview();
  const step = job.recipe.steps.find((s) => s.id === id);
  const state = job.build.result?.steps.find((s) => s.id === id);
  if (!step) return null;
  const { Form, Below, slots } = kindView(step.kind);
  const params: Record<string, unknown> = step.params;
  const set = (part: Record<string, unknown>) => {
    void edit({ op: "set-params", step: step.id, params: part });
    preview.clear();
  };
  const typed = (part: Record<string, unknown>) => {
    const same = Object.entries(part).every(([k, v]) => textOf(v) === textOf(params[k]));
    if (same) preview.clear();
    else preview.show({ op: "set-params", step: step.id, params: part });
  };
  const own = { params, step, state, onChange: set };
  const change = scanFacts(state?.facts);
  return (
    <section className="sheet" aria-label="Step">
      <h2>{step.name}</h2>
      <StepProblems step={step} state={state} />
      {Form ? (
        <Form {...own} />
      ) : (
        <StepForm
          key={step.id}
          kind={step.kind}
          params={params}
          state={state}
          step={step.id}
          slots={slotsOf(slots, own)}
          onChange={set}
          onType={typed}
        />
      )}
      {Below && <Below key={`below-${step.id}`} {...own} />}
      {state && change && <MendOutcome state={state} facts={change} />}
      <Facts facts={state?.facts ?? null} />
      {kinds[step.kind]?.makes === "sketch" && <SaveFlat step={step.id} />}
      <div className="field-label">Note</div>
      <Input.TextArea
        key={`${step.id}-${job.revision}`}
        aria-label="Note on the step"
        autoSize={{ minRows: 1, maxRows: 5 }}
        defaultValue={step.note ?? ""}
        placeholder="why it is so"
        onKeyDown={(e) => e.stopPropagation()}
        onBlur={(e) => {
          if (e.target.value.trim() !== (step.note ?? ""))
            void edit({ op: "note-step", step: step.id, note: e.target.value });
        }}
      />
      <div className="sheet-actions">
        {state && <NextSteps step={step} state={state} />}
        <Button onClick={close}>Close</Button>
      </div>
    </section>
  );
}
