import { Button, Input, type InputRef, Modal } from "antd";
import { useState } from "react";
import type { MeshFileFacts, UploadOut } from "../api/client";
import { ProblemNote } from "../ui/ProblemNote";
import { useTypedFirst } from "../ui/typedFirst";
import { count, type Unit } from "../units";
import { UnitRows } from "./UnitRows";
import { useBegin } from "./useBegin";

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
  const { name, setName, problem, begin } = useBegin(upload, onDone);
  const { first, afterOpenChange } = useTypedFirst<InputRef>();
  return (
    <Modal
      open
      title="Which unit is this scan in?"
      onCancel={onCancel}
      footer={null}
      width={740}
      afterOpenChange={afterOpenChange}
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
      <label className="field-label" htmlFor="job-name">
        Name of the job
      </label>
      <Input
        id="job-name"
        ref={first}
        autoFocus
        value={name}
        onChange={(e) => setName(e.target.value)}
        onPressEnter={() => void begin(unit)}
      />
      {problem && <ProblemNote problem={problem.problem} />}
      <div className="sheet-actions">
        <Button type="primary" onClick={() => void begin(unit)}>
          Begin the job in {unit}
        </Button>
        <Button onClick={onCancel}>Not now</Button>
      </div>
    </Modal>
  );
}
