import { Popover } from "antd";
import { fileOf, meshFile } from "../../api/evidence";
import { useTool } from "../../sheets/tool";
import { FactList } from "../../ui/FactList";
import { Glyph } from "../../ui/Glyph";
import type { Unit } from "../../units";
import { useBench } from "../context";
import { HiddenMark } from "../HiddenMark";
import { useSeen } from "../seen";
import type { EvidenceOf, EvidenceView } from "./kinds";
import { factsInUnit } from "./scanFacts";

function Facts({ rows, warnings }: { rows: [string, string][]; warnings: string[] }) {
  return (
    <div className="facts">
      <FactList name="facts of the scan" rows={rows} className="" />
      {warnings.map((w) => (
        <p className="quiet small" key={w}>
          {w}
        </p>
      ))}
    </div>
  );
}

/** A scan: what it is for; its size while there is room for it. */
function Row({ evidence: e }: { evidence: EvidenceOf<"scan"> }) {
  const { job, unit } = useBench();
  const file = meshFile(fileOf(job, e.id));
  const rows = file ? factsInUnit(file, e.unit as Unit, unit) : [];
  const roomy = job.recipe.steps.length < 4;
  const open = () => {
    useSeen.getState().set({ scan: e.id });
    useTool.getState().open("scan");
  };
  return (
    <li className="evidence">
      <Popover placement="rightTop" title="All facts" content={<Facts rows={rows} warnings={file?.warnings ?? []} />}>
        <button type="button" className="step-line evidence-row" onClick={open}>
          <Glyph kind="scan" />
          <span className="step-name">{e.name}</span>
          <span className="figures">
            {job.build.result?.merged?.[e.id] ? "merged" : e.role === "reference" ? "reference" : `in ${e.unit}`}
          </span>
        </button>
      </Popover>
      <HiddenMark id={e.id} name={e.name} />
      {file && roomy && <Facts rows={rows} warnings={[]} />}
      {file && !roomy && (
        <div className="step-note figures">
          {rows
            .slice(0, 2)
            .map((r) => r[1])
            .join(" · ")}
        </div>
      )}
    </li>
  );
}

export const view: EvidenceView<"scan"> = { kind: "scan", order: 1, Row };
