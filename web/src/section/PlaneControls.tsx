import { InputNumber, Segmented, Switch } from "antd";
import type { Vec3 } from "../api/build";
import { useTool } from "../sheets/tool";
import { isSquared, nearlyAcross, type SectionDraft } from "./draft";
import { Several } from "./Several";
import { WhereToCut } from "./WhereToCut";

const ACROSS = ["x", "y", "z"] as const;
const axis = (k: number) => [0, 1, 2].map((i) => (i === k ? 1 : 0)) as Vec3;

/** A fitted plane is as square as its scan lets it be: it is taken to stand exactly across the direction that it nearly does. */
function Squared({ nearly, on }: { nearly: NonNullable<SectionDraft["nearly"]>; on: boolean }) {
  const recut = useTool((s) => s.recut);
  const change = (square: boolean) =>
    recut({ normal: square ? (nearlyAcross(nearly.normal)?.axis ?? nearly.normal) : nearly.normal });
  return (
    <div className="value-line gap">
      <Switch id="square" size="small" checked={on} onChange={change} />
      <label htmlFor="square">
        exactly across {nearly.across}
        <span className="quiet">
          {`; the face it begins from is ${nearly.off < 0.005 ? "less than 0.01" : nearly.off.toFixed(2)}° off`}
        </span>
      </label>
    </div>
  );
}

/** How the plane is turned, whether the view is opened at it, how many there are, and where they would tell the most. */
export function PlaneControls() {
  const draft = useTool((s) => s.section)!;
  const set = useTool((s) => s.setSection);
  const recut = useTool((s) => s.recut);
  // A plane that belongs to nothing stands across one of the part's own directions.
  const across = draft.region ? -1 : ACROSS.findIndex((_, k) => draft.normal[k] === 1);
  return (
    <>
      {across >= 0 && (
        <div className="value-line gap">
          <span className="quiet">across</span>
          <Segmented
            size="small"
            aria-label="Across"
            options={ACROSS.map((label, value) => ({ label, value }))}
            value={across}
            onChange={(k) => recut({ normal: axis(k), turnU: 0, turnV: 0 })}
          />
        </div>
      )}
      {draft.nearly && <Squared nearly={draft.nearly} on={isSquared(draft)} />}
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
