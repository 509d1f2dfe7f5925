import { Button, Input, Modal, Radio } from "antd";
import { useState } from "react";
import { api, got, ProblemError, type UploadOut } from "../api/client";
import { ProblemNote } from "../ui/ProblemNote";
import { count, MM_PER, type Unit } from "../units";

interface Facts {
  facets: number;
  size: [number, number, number];
  open_edges: number;
  closed: boolean;
  unit_guess: Unit;
  /** The file's format has a unit, and this is it. */
  unit_said?: boolean;
  warnings: string[];
}

const UNITS: Unit[] = ["mm", "inch", "cm", "m"];

export function sizeIn(size: readonly number[], file: Unit, shown: Unit): string {
  const k = MM_PER[file] / MM_PER[shown];
  const digits = shown === "inch" ? 2 : 1;
  return `${size.map((s) => (s * k).toLocaleString("en", { minimumFractionDigits: digits, maximumFractionDigits: digits })).join(" × ")} ${shown}`;
}

interface Props {
  upload: UploadOut;
  onDone: (jobId: string) => void;
  onCancel: () => void;
}

/** Mesh files never say their unit, and a wrong guess costs a part: so we ask, and show what each answer means. */
export function UnitQuestion({ upload, onDone, onCancel }: Props) {
  const facts = upload.facts as unknown as Facts;
  const [unit, setUnit] = useState<Unit>(facts.unit_guess);
  const [name, setName] = useState(upload.name.replace(/\.[^.]+$/, "").replace(/[-_]+/g, " "));
  const [problem, setProblem] = useState<ProblemError | null>(null);
  const begin = async () => {
    try {
      const job = await got(api.POST("/api/jobs", { body: { upload: upload.id, name, unit } }));
      onDone(job.id);
    } catch (e) {
      if (e instanceof ProblemError) setProblem(e);
      else throw e;
    }
  };
  return (
    <Modal open title="Which unit is this scan in?" onCancel={onCancel} footer={null} width={740}>
      <p>
        <b>{upload.name}</b> holds {count(facts.facets)} facets,{" "}
        {facts.closed ? "closed" : `with ${count(facts.open_edges)} open edges`}.{" "}
        {facts.unit_said ? "The file says its unit; is it right?" : "Mesh files like this do not say their unit."} How
        large is the part?
      </p>
      <Radio.Group className="units" value={unit} onChange={(e) => setUnit(e.target.value as Unit)}>
        {UNITS.map((u) => (
          <Radio key={u} value={u} className="unit-row">
            <b className="unit-name">{u}</b>
            <span className="figures">{sizeIn(facts.size, u, "mm")}</span>
            <span className="figures quiet">{sizeIn(facts.size, u, "inch")}</span>
            {u === facts.unit_guess && (
              <span className="proposal">{facts.unit_said ? "said by the file" : "proposed from its size"}</span>
            )}
          </Radio>
        ))}
      </Radio.Group>
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
      <Input id="job-name" value={name} onChange={(e) => setName(e.target.value)} onPressEnter={() => void begin()} />
      {problem && <ProblemNote problem={problem.problem} />}
      <div className="sheet-actions">
        <Button type="primary" onClick={() => void begin()}>
          Begin the job in {unit}
        </Button>
        <Button onClick={onCancel}>Not now</Button>
      </div>
    </Modal>
  );
}
