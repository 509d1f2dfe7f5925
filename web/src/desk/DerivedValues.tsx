import { Button } from "antd";
import type { Desk } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { quantity } from "../steps/stepValues";
import { Stamp } from "../ui/Stamp";
import { bare } from "./facts";

/** Named values that rest on readings, with the uncertainty that comes through their formulas. */
export function DerivedValues({ desk }: { desk: Desk | undefined }) {
  const { job, unit } = useBench();
  const open = useTool((s) => s.open);
  const values = job.recipe.values ?? [];
  return (
    <section className="desk-part">
      <div className="desk-part-head">
        <h2>What follows from them</h2>
        <Button size="small" type="text" onClick={() => open("values")}>
          Edit values and formulas
        </Button>
      </div>
      {values.length === 0 && (
        <p className="quiet">
          Formulas over readings, such as <code>lead = span / 7</code> or <code>web = (rim_d - hub_d) / 2</code>, stand
          here with their uncertainty.
        </p>
      )}
      {values.map((v) => {
        const found = job.build.result?.values?.[v.id];
        const u = desk?.uncertain[v.id];
        const trouble = job.build.result?.problems.find((p) => p.where?.value === v.name);
        return (
          <div className="derived" key={v.id}>
            <Stamp mark={found?.mark ?? v.value.mark ?? "assumed"} />
            <b>{v.name}</b>
            <span className="figures quiet">= {v.value.text}</span>
            <span className="figures derived-value">
              {found ? quantity(found, unit) : ""}
              {u !== undefined && v.dimension === "length" && ` ± ${bare(2 * u, unit, 2)}`}
              {u !== undefined && v.dimension !== "length" && ` ± ${(2 * u).toFixed(4)}`}
            </span>
            {trouble && <span className="above small">▲ {trouble.message}</span>}
          </div>
        );
      })}
    </section>
  );
}
