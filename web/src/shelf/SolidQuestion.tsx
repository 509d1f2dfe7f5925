import { useState } from "react";
import type { SolidFileFacts, UploadOut } from "../api/client";
import { count, MM_PER, type Unit } from "../units";
import { BeginDialog } from "./BeginDialog";
import { sizeIn, UnitRows } from "./UnitRows";

const UNITS: Unit[] = ["mm", "inch", "cm", "m"];
export const unitSaid = (facts: SolidFileFacts): Unit =>
  UNITS.find((u) => Math.abs(MM_PER[u] - facts.unit_mm) < 1e-9) ?? "mm";

interface Props {
  upload: UploadOut;
  facts: SolidFileFacts;
  onDone: (jobId: string) => void;
  onCancel: () => void;
}

/** A STEP or IGES file says its unit: it is shown, with what it means, and can be contradicted before the job begins. */
export function SolidQuestion({ upload, facts, onDone, onCancel }: Props) {
  const said = unitSaid(facts);
  const [unit, setUnit] = useState<Unit>(facts.doubt ?? said);
  const inFile = facts.size.map((s) => s / facts.unit_mm);
  const open = facts.bodies.filter((b) => !b.closed).length;
  return (
    <BeginDialog
      title="A solid from a file"
      upload={upload}
      unit={unit}
      button="Begin the job"
      onDone={onDone}
      onCancel={onCancel}
    >
      <p>
        <b>{upload.name}</b> holds {facts.bodies.length === 1 ? "one body" : `${facts.bodies.length} bodies`} with{" "}
        {count(facts.faces)} faces{facts.sewn ? ", sewn from loose faces" : ""}.
        {open > 0 && ` ${open === 1 ? "One of them is" : `${open} are`} open: for reference only.`}
      </p>
      <ul className="file-bodies">
        {facts.bodies.slice(0, 8).map((b) => (
          <li key={b.name}>
            <span className="swatch" style={{ background: b.colour ?? "var(--line)" }} />
            {b.name} <span className="quiet">{count(b.faces)} faces</span>
          </li>
        ))}
        {facts.bodies.length > 8 && <li className="quiet">and {facts.bodies.length - 8} more</li>}
      </ul>
      {facts.doubt && (
        <p className="above">
          The file says {said}, but then it would be {sizeIn(inFile, said, "mm")}. Is it in {facts.doubt}?
        </p>
      )}
      <UnitRows
        units={UNITS.filter((u) => u === said || u === "mm" || u === "inch")}
        value={unit}
        onChange={setUnit}
        size={inFile}
        said={(u) => (u === said ? "said by the file" : null)}
      />
    </BeginDialog>
  );
}
