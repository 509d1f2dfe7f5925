import { useState } from "react";
import type { MeshFileFacts, UploadOut } from "../api/client";
import { count, type Unit } from "../units";
import { BeginDialog } from "./BeginDialog";
import { UnitRows } from "./UnitRows";

const UNITS: Unit[] = ["mm", "inch", "cm", "m"];

interface Props {
  upload: UploadOut;
  facts: MeshFileFacts;
  onDone: (jobId: string) => void;
  onCancel: () => void;
}

/** Mesh files never say their unit, and a wrong guess costs a part: so we ask, and show what each answer means. */
export function UnitQuestion({ upload, facts, onDone, onCancel }: Props) {
  const [unit, setUnit] = useState<Unit>(facts.unit_guess);
  return (
    <BeginDialog
      title="Which unit is this scan in?"
      upload={upload}
      unit={unit}
      button={`Begin the job in ${unit}`}
      onDone={onDone}
      onCancel={onCancel}
    >
      <p>
        <b>{upload.name}</b> holds {count(facts.facets)} facets,{" "}
        {facts.closed ? "closed" : `with ${count(facts.open_edges)} open edges`}.{" "}
        {facts.unit_said ? "The file says its unit; is it right?" : "Mesh files like this do not say their unit."} How
        large is the part?
      </p>
      <UnitRows
        units={UNITS}
        value={unit}
        onChange={setUnit}
        size={facts.size}
        said={(u) =>
          u === facts.unit_guess ? (facts.unit_said ? "said by the file" : "proposed from its size") : null
        }
      />
      {facts.warnings.length > 0 && (
        <ul className="quiet small">
          {facts.warnings.map((w) => (
            <li key={w}>{w}</li>
          ))}
        </ul>
      )}
    </BeginDialog>
  );
}
