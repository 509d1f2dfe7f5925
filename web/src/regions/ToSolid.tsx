import { Button } from "antd";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import type { Found } from "./facts";

const SAID: Record<string, string> = {
  modelled: "This mesh was exported from a model: its faces are exact, and can be made a solid as they are.",
  mixed: "Part of this mesh was modelled, part was scanned: exact faces come first, the rest follows its own noise.",
};

/** What a modelled mesh is good for; nothing for a scan. */
export function ToSolid({ mesh }: { mesh: Found["mesh"] }) {
  const { scanId } = useBench();
  const openDraft = useTool((s) => s.openDraft);
  const said = SAID[mesh];
  if (!said) return null;
  return (
    <div className="value-line gap">
      <span className="quiet small">{said}</span>
      {mesh === "modelled" && (
        <Button
          size="small"
          type="primary"
          onClick={() => openDraft({ kind: "solidify", params: { scan: { id: scanId } } })}
        >
          Faces to solid
        </Button>
      )}
    </div>
  );
}
