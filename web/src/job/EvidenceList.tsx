import { FileDoor } from "../intake/FileDoor";
import { ANY_FILE } from "../intake/files";
import { useBringIn } from "../intake/useBringIn";
import { type Panel, useTool } from "../sheets/tool";
import { useBench } from "./context";
import { evidenceRows } from "./evidence/kinds";

/** What came from outside, each with its way in, and the doors to where more of it is made. */
export function EvidenceList() {
  const { job } = useBench();
  const open = useTool((s) => s.open);
  const { busy, bring } = useBringIn();
  const { evidence, values } = job.recipe;
  const named = (values?.length ?? 0) + evidence.filter((e) => e.kind === "reading").length;
  const doors: [Panel, string][] = [
    ["desk", "By caliper"],
    ["photo", "By photo"],
    ["values", named ? `Readings (${named})` : "Readings"],
  ];
  return (
    <>
      <ul>
        {evidenceRows(evidence).map(({ evidence: e, Row }) => (
          <Row key={e.id} evidence={e} />
        ))}
      </ul>
      <div className="evidence-doors">
        <FileDoor
          label="More evidence"
          accept={ANY_FILE}
          several
          size="small"
          loading={busy !== null}
          onFiles={(files) => void bring(files)}
        >
          Bring in
        </FileDoor>
        {doors.map(([panel, text]) => (
          <button type="button" className="link small" key={panel} onClick={() => open(panel)}>
            {text}
          </button>
        ))}
      </div>
    </>
  );
}
