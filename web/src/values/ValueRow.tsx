import { Button } from "antd";
import type { NamedValue } from "../api/client";
import type { Dimension } from "../api/kinds";
import { useBench } from "../job/context";
import { asValue, quantity, shownValue } from "../steps/stepValues";
import { ProblemNote } from "../ui/ProblemNote";
import { NameInput } from "./NameInput";
import { ValueField } from "./ValueField";

/** A value of the job's own: its name, its formula, and what uses it. */
export function ValueRow({ value: v, usedBy: by }: { value: NamedValue; usedBy: string[] }) {
  const { job, unit, edit } = useBench();
  const found = job.build.result?.values?.[v.id];
  const trouble = job.build.result?.problems.find((p) => p.where?.value === v.name);
  const shown = shownValue(v.value, v.name, undefined, unit);
  return (
    <div className="named">
      <div className="value-line">
        <NameInput name={v.name} onCommit={(name) => void edit({ op: "set-value", id: v.id, name })} />
        <ValueField
          compact
          label={`Value of ${v.name}`}
          shown={{ ...shown, mark: found?.mark ?? v.value.mark ?? "assumed" }}
          of={{ own: v.name, dimension: (v.dimension ?? "length") as Dimension }}
          onCommit={(value) => value && void edit({ op: "set-value", id: v.id, value: asValue(value) })}
        />
        <Button
          size="small"
          type="text"
          aria-label={`Delete ${v.name}`}
          onClick={() => void edit({ op: "delete-value", id: v.id })}
        >
          ×
        </Button>
      </div>
      <div className="named-note">
        <span className="figures">{found ? `= ${quantity(found, unit)}` : ""}</span>
        <span>{by.length ? `used by ${by.join(", ")}` : "not used yet"}</span>
      </div>
      {trouble && <ProblemNote problem={trouble} />}
    </div>
  );
}
