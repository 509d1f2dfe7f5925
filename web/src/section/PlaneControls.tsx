import { InputNumber, Switch } from "antd";
import { useTool } from "../sheets/tool";
import { Several } from "./Several";
import { WhereToCut } from "./WhereToCut";

/** How the plane is turned, whether the view is opened at it, how many there are, and where they would tell the most. */
export function PlaneControls() {
  const draft = useTool((s) => s.section)!;
  const set = useTool((s) => s.setSection);
  const recut = useTool((s) => s.recut);
  return (
    <>
      <div className="value-line turns">
        <span className="quiet">turned</span>
        {(["turnU", "turnV"] as const).map((k) => (
          <InputNumber
            key={k}
            size="small"
            aria-label={k === "turnU" ? "Turned about its first axis" : "Turned about its second axis"}
            value={draft[k]}
            min={-180}
            max={180}
            step={1}
            suffix="°"
            onChange={(v) => recut({ [k]: v ?? 0 })}
            onKeyDown={(e) => e.stopPropagation()}
          />
        ))}
      </div>
      <div className="value-line gap">
        <Switch id="clip-view" size="small" checked={draft.clip} onChange={(clip) => set({ clip })} />
        <label htmlFor="clip-view">open the view at the plane</label>
      </div>
      <Several />
      <WhereToCut />
    </>
  );
}
