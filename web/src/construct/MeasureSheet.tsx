import { DeleteOutlined } from "@ant-design/icons";
import { Button, Segmented } from "antd";
import { factsOf } from "../api/facts";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import type { Unit } from "../units";
import { goTo } from "../view/stage";
import { Figures } from "./Figures";

const WAYS: [string, string, string][] = [
  ["between", "Between two", "points, planes and axes: distance, angle, components"],
  ["size", "Diameter", "diameter and radius of a cylinder, sphere, torus or arc"],
  ["thickness", "Wall", "straight through the material, from a place on the scan or from a face"],
  ["length", "Length", "of an edge or of pieces of an outline"],
  ["area", "Area", "of a region, a face, a profile, a body or the scan"],
  ["volume", "Volume", "of a body or a closed scan"],
  ["pitch", "Pitch", "of a thread's flank or outline"],
];

/** All lasting measurements of the job, and how to take another. */
export function MeasureSheet() {
  const { job, unit, edit, scanId } = useBench();
  const { openDraft, select, close } = useTool();
  const states = job.build.result?.steps ?? [];
  const rows = job.recipe.steps
    .filter((s) => s.kind === "measurement")
    .map((step) => {
      const state = states.find((t) => t.id === step.id);
      return { step, state, found: state?.status === "ok" ? factsOf(state.facts, "measurement") : null };
    });
  return (
    <section className="sheet" aria-label="Measurements">
      <h2>Measurements</h2>
      <p className="quiet">Each is a step: it follows when its sources change, and formulas can use its figures.</p>
      <div className="field-label">Measure</div>
      <div className="measure-ways">
        {WAYS.map(([what, text, help]) => (
          <Button
            key={what}
            size="small"
            title={help}
            onClick={() =>
              openDraft({ kind: "measurement", params: { what, ...(scanId ? { scan: { id: scanId } } : {}) } })
            }
          >
            {text}
          </Button>
        ))}
      </div>
      <div className="value-line gap">
        <span className="quiet">shown in</span>
        <Segmented<Unit>
          size="small"
          aria-label="Unit of the job"
          value={unit}
          options={["mm", "inch"]}
          onChange={(u) => void edit({ op: "set-job", unit: u })}
        />
      </div>
      {rows.length === 0 && <p className="quiet gap">Nothing is measured yet. Choose what to measure above.</p>}
      {rows.map(({ step, state, found }) => (
        <div key={step.id} className="measure-row">
          <div className="measure-head">
            <button type="button" className="step-name" onClick={() => select(step.id)}>
              {step.name}
            </button>
            {found?.start && (
              <Button size="small" type="text" onClick={() => goTo(found.start!)}>
                Go there
              </Button>
            )}
            <Button
              size="small"
              type="text"
              icon={<DeleteOutlined />}
              aria-label={`Delete ${step.name}`}
              onClick={() => void edit({ op: "delete-step", step: step.id, with_dependents: false })}
            />
          </div>
          {found ? (
            <Figures facts={found} unit={unit} />
          ) : (
            <p className="above">{state?.problems[0]?.message ?? "not measured yet"}</p>
          )}
        </div>
      ))}
      <div className="sheet-actions">
        <Button onClick={close}>Close</Button>
      </div>
    </section>
  );
}
