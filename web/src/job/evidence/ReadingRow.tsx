import { readingText } from "../../desk/facts";
import { useFocus } from "../../desk/useDesk";
import { useTool } from "../../sheets/tool";
import { Stamp } from "../../ui/Stamp";
import { useBench } from "../context";
import type { EvidenceOf, EvidenceView } from "./kinds";

/** A reading: its mean, and what of it is not certain. */
function Row({ evidence: r }: { evidence: EvidenceOf<"reading"> }) {
  const { job, unit } = useBench();
  const open = () => {
    useFocus.getState().set({ reading: r.id });
    useTool.getState().open("desk");
  };
  return (
    <li className="evidence">
      <button type="button" className="step-line evidence-row" onClick={open}>
        <Stamp mark={r.source ?? "caliper"} />
        <span className="step-name">{r.name}</span>
        <span className="figures">{readingText(job.readings[r.id], unit)}</span>
      </button>
    </li>
  );
}

export const view: EvidenceView<"reading"> = { kind: "reading", order: 3, Row };
