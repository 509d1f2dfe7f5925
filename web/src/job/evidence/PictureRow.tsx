import { usePhoto } from "../../photo/store";
import { useTool } from "../../sheets/tool";
import { Stamp } from "../../ui/Stamp";
import type { EvidenceOf, EvidenceView } from "./kinds";

/** A photo or a drawing, and how much was marked in it. */
function Row({ evidence: p }: { evidence: EvidenceOf<"picture"> }) {
  const open = () => {
    usePhoto.getState().open(p.id);
    useTool.getState().open("photo");
  };
  return (
    <li className="evidence">
      <button type="button" className="step-line evidence-row" onClick={open}>
        <Stamp mark={p.role === "drawing" ? "drawing" : "photo"} />
        <span className="step-name">{p.name}</span>
        <span className="figures">{p.marks?.length ?? 0} marks</span>
      </button>
    </li>
  );
}

export const view: EvidenceView<"picture"> = { kind: "picture", order: 4, Row };
