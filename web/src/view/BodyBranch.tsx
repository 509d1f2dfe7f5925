import { AutoComplete, Button, InputNumber } from "antd";
import { useState } from "react";
import { useDeclarations } from "../api/kinds";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { area, volume } from "../units";
import { branchOf, mass } from "./branch";

/** Under a body's row: what it measures, what it is made of, and the steps that made it. */
export function BodyBranch({ id, name }: { id: string; name: string }) {
  const { job, unit, edit } = useBench();
  const { materials } = useDeclarations();
  const body = job.build.result?.bodies.find((b) => b.id === id);
  const said = job.recipe.bodies?.find((b) => b.id === id);
  const [typed, setTyped] = useState(said?.material ?? "");
  const steps = branchOf(job, id);
  if (!body) return null;
  const keep = (material: string) =>
    material.trim() !== (said?.material ?? "") && void edit({ op: "set-body", id, material: material.trim() });
  const density = (text: string) => {
    const value = Number.parseFloat(text.replace(",", "."));
    if (value > 0 && value !== said?.density) void edit({ op: "set-body", id, density: value });
  };
  return (
    <div className="body-branch">
      <dl className="fact-list">
        <div>
          <dt>Volume</dt>
          <dd>{volume(body.volume ?? 0, unit)}</dd>
        </div>
        <div>
          <dt>Area</dt>
          <dd>{area(body.area ?? 0, unit)}</dd>
        </div>
        <div>
          <dt>Faces</dt>
          <dd>{body.faces?.length ?? 0}</dd>
        </div>
        {body.mass != null && (
          <div>
            <dt>Mass</dt>
            <dd>{mass(body.mass)}</dd>
          </div>
        )}
      </dl>
      <div className="body-made-of">
        <AutoComplete
          size="small"
          aria-label={`Material of ${name}`}
          placeholder="material"
          value={typed}
          options={Object.keys(materials).map((m) => ({ value: m }))}
          showSearch={{ filterOption: (text, option) => option!.value.toLowerCase().includes(text.toLowerCase()) }}
          onChange={setTyped}
          onSelect={keep}
          onBlur={() => keep(typed)}
          onKeyDown={(e) => e.stopPropagation()}
        />
        <InputNumber
          key={said?.density ?? 0}
          size="small"
          aria-label={`Density of ${name}`}
          suffix="g/cm³"
          min={0.01}
          max={30}
          controls={false}
          {...(said?.density ? { defaultValue: said.density } : {})}
          onBlur={(e) => density(e.target.value)}
          onPressEnter={(e) => e.currentTarget.blur()}
          onKeyDown={(e) => e.stopPropagation()}
        />
      </div>
      <ol className="body-steps" aria-label={`Steps of ${name}`}>
        {steps.map((s) => (
          <li key={s.id}>
            <Button type="link" size="small" onClick={() => useTool.getState().select(s.id)}>
              {s.name}
            </Button>
          </li>
        ))}
      </ol>
    </div>
  );
}
