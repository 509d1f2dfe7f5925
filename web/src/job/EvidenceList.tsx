import { useTool } from "../sheets/tool";
import { useBench } from "./context";
import { evidenceRows } from "./evidence/kinds";

/** What came from outside, each with its way in. */
export function EvidenceList() {
  const { job } = useBench();
  const open = useTool((s) => s.open);
  const { evidence, values } = job.recipe;
  const named = (values?.length ?? 0) + evidence.filter((e) => e.kind === "reading").length;
  return (
    <ul>
      {evidenceRows(evidence).map(({ evidence: e, Row }) => (
        <Row key={e.id} evidence={e} />
      ))}
      <li className="evidence">
        <button type="button" className="link small add-row" onClick={() => open("values")}>
          {named ? `Values and readings (${named})` : "Add a reading or a named value"}
        </button>
      </li>
    </ul>
  );
}
