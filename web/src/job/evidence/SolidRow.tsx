import { Button, Popover, Segmented } from "antd";
import { useRef, useState } from "react";
import { fileOf, solidFile } from "../../api/evidence";
import { keepFile } from "../../api/files";
import { unitSaid } from "../../shelf/SolidQuestion";
import { sizeIn } from "../../shelf/UnitRows";
import { Stamp } from "../../ui/Stamp";
import type { Unit } from "../../units";
import { useBench } from "../context";
import type { EvidenceOf, EvidenceView } from "./kinds";

const SAID = "as the file says";

/** A file of solids in the list of evidence: its unit, a newer version in its place, and taking it out. */
export function SolidRow({ evidence: solid }: { evidence: EvidenceOf<"solid"> }) {
  const { job, unit: shown, edit, tell } = useBench();
  const [busy, setBusy] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const facts = solidFile(fileOf(job, solid.id));
  const doubted = job.build.result?.problems.some((p) => p.code === "unit-unknown" && p.where?.file === solid.name);
  const said = facts ? unitSaid(facts) : null;
  const other: Unit = said === "inch" ? "mm" : "inch";
  const set = (unit: string) =>
    void edit(
      unit === SAID
        ? { op: "set-solid", id: solid.id, said: true }
        : { op: "set-solid", id: solid.id, unit: unit as Unit, said: false },
    );
  const replace = async (chosen: File) => {
    setBusy(true);
    try {
      await edit({ op: "set-solid", id: solid.id, said: false, file: await keepFile(job.id, chosen) });
    } catch (e) {
      tell(e);
    } finally {
      setBusy(false);
    }
  };
  const about = (
    <div className="solid-about">
      {facts && said && (
        <p className="figures">
          {sizeIn(
            facts.size.map((s) => s / facts.unit_mm),
            solid.unit ?? said,
            shown,
          )}
          {` · ${facts.bodies.length === 1 ? "one body" : `${facts.bodies.length} bodies`}, ${facts.faces} faces`}
        </p>
      )}
      <div className="field-label">Unit of the file</div>
      <Segmented
        aria-label="Unit of the file"
        value={solid.unit ?? SAID}
        options={[{ value: SAID, label: said ? `${said}, as it says` : SAID }, "mm", "inch"]}
        onChange={(u) => set(String(u))}
      />
      <div className="button-rows">
        <Button size="small" loading={busy} onClick={() => file.current?.click()}>
          Newer version …
        </Button>
        <Button size="small" onClick={() => void edit({ op: "drop-solid", id: solid.id })}>
          Take out
        </Button>
      </div>
      <p className="quiet small">Faces that a newer version leaves as they are keep their names.</p>
    </div>
  );
  return (
    <li className="evidence">
      <Popover content={about} trigger="click" placement="rightTop" title={solid.name}>
        <button type="button" className="step-line evidence-row">
          <Stamp mark="solid" />
          <span className="step-name">{solid.name}</span>
          <span className="figures">{solid.unit ?? said ?? ""}</span>
        </button>
      </Popover>
      {doubted && (
        <div className="button-rows">
          <Button size="small" type="primary" onClick={() => set(other)}>
            It is in {other}
          </Button>
          <Button size="small" onClick={() => set(said ?? "mm")}>
            It is right
          </Button>
        </div>
      )}
      <input
        ref={file}
        type="file"
        hidden
        aria-label={`Newer version of ${solid.name}`}
        accept=".step,.stp,.iges,.igs"
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          e.target.value = "";
          if (chosen) void replace(chosen);
        }}
      />
    </li>
  );
}

export const view: EvidenceView<"solid"> = { kind: "solid", order: 2, Row: SolidRow };
