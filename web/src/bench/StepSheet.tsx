import { Button, Checkbox, Segmented, Select } from "antd";
import { LengthInput } from "../ui/LengthInput";
import { ProblemNote } from "../ui/ProblemNote";
import { Stamp } from "../ui/Stamp";
import { faceOn, goTo } from "../view/stage";
import { useBench } from "./context";
import { factRows, valueFields } from "./stepValues";
import { useTool } from "./stores";

interface Props {
  onSection: (region: string) => void;
  onExtrude: (sketch: string) => void;
}

/** The chosen step's values, what it measured, and what usually comes next. */
export function StepSheet({ onSection, onExtrude }: Props) {
  const { job, unit, edit } = useBench();
  const id = useTool((s) => s.step);
  const close = useTool((s) => s.close);
  const step = job.recipe.steps.find((s) => s.id === id);
  const state = job.build.result?.steps.find((s) => s.id === id);
  if (!step) return null;
  const params = step.params as Record<string, unknown>;
  const set = (part: Record<string, unknown>) => void edit({ op: "set-params", step: step.id, params: part });
  const bodies = job.recipe.steps.filter(
    (s) => s.kind === "extrude" && s.params.operation === "new" && s.id !== step.id,
  );
  return (
    <section className="sheet" aria-label="Step">
      <h2>{step.name}</h2>
      {state?.problems.map((p) => (
        <ProblemNote key={p.message} problem={p} onGo={goTo} />
      ))}
      {valueFields(step, state, unit).map((f) => (
        <div key={f.field}>
          <div className="field-label">
            {f.label} <Stamp mark={f.mark} />
          </div>
          <LengthInput
            label={f.label}
            value={f.text}
            placeholder={f.placeholder}
            onCommit={(text) => set({ [f.field]: text.trim() ? { text: text.trim(), mark: "assumed" } : null })}
          />
        </div>
      ))}
      {step.kind === "region" && (
        <>
          <div className="field-label">Kind of surface</div>
          <Segmented
            block
            value={String(params.surface ?? "auto")}
            options={["auto", "plane", "cylinder"]}
            onChange={(surface) => set({ surface })}
          />
        </>
      )}
      {step.kind === "extrude" && (
        <>
          <Checkbox
            className="gap"
            checked={Boolean(params.symmetric)}
            onChange={(e) => set({ symmetric: e.target.checked })}
          >
            half each way
          </Checkbox>
          <div className="field-label">Result</div>
          <Segmented
            block
            value={String(params.operation ?? "new")}
            options={[
              { label: "new body", value: "new" },
              { label: "add", value: "add", disabled: bodies.length === 0 },
              { label: "subtract", value: "subtract", disabled: bodies.length === 0 },
            ]}
            onChange={(operation) =>
              set(
                operation === "new"
                  ? { operation, body: null }
                  : { operation, body: params.body ?? { id: bodies[0]?.id } },
              )
            }
          />
          {params.operation !== "new" && (
            <Select
              aria-label="Body"
              className="wide gap"
              value={(params.body as { id: string } | null)?.id ?? null}
              options={bodies.map((b) => ({ value: b.id, label: b.name }))}
              onChange={(body) => set({ body: { id: body } })}
            />
          )}
        </>
      )}
      <dl className="fact-list">
        {factRows(state, unit).map(([name, value]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      <div className="sheet-actions">
        {step.kind === "region" && state?.facts.kind === "plane" && (
          <>
            <Button type="primary" onClick={() => onSection(step.id)}>
              Cut a section
            </Button>
            <Button onClick={() => faceOn(state.facts.origin, state.facts.axis)}>Look at it</Button>
          </>
        )}
        {step.kind === "outline" && state?.status === "ok" && (
          <Button type="primary" onClick={() => onExtrude(step.id)}>
            Extrude
          </Button>
        )}
        <Button onClick={close}>Close</Button>
      </div>
    </section>
  );
}
