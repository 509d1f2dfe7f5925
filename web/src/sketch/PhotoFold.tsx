import { Select, Slider } from "antd";
import type { Step } from "../api/client";
import { useBench } from "../job/context";
import { type Shown, toPlane, type XY } from "./drawing";
import { PhotoRow } from "./PhotoRow";
import { laidFirst } from "./pictures";
import { useHand, useHandOf } from "./store";
import { useLaid, useLaying } from "./useLaid";

/** Photos and drawings of the job, laid to scale under the sketch: to draw over, to be fitted to, and for the figures that stand in them. */
export function PhotoFold({ step, shown }: { step: Step; shown: Shown }) {
  const { job } = useBench();
  const { paper, set } = useHandOf("paper", "set");
  const laid = useLaid(step, shown);
  const laying = useLaying(step, shown);
  const pictures = job.recipe.evidence.filter((e) => e.kind === "picture");
  const left = pictures.filter((p) => !laying.pictures.some((u) => u.picture === p.id));
  const paths = Object.values(shown.paths) as XY[][];
  return (
    <section className="photo-fold" aria-label="Pictures under it">
      <div className="field-label">Photos and drawings under it</div>
      {!pictures.length && (
        <p className="quiet small">
          The job has none yet: drop a photo or a drawing on the bench, and give it a known length.
        </p>
      )}
      {left.length > 0 && (
        <Select<string>
          size="small"
          style={{ width: "100%" }}
          aria-label="Lay a picture under it"
          placeholder="Lay one under it"
          value={null}
          options={left.map((p) => ({ value: p.id, label: p.name }))}
          onChange={(id) => {
            const picture = left.find((p) => p.id === id);
            if (picture) void laying.put(laidFirst(picture, paths, lookedAt()));
          }}
        />
      )}
      {laying.pictures.map((u) => (
        <PhotoRow
          key={u.picture}
          under={u}
          laid={laid?.pictures.find((l) => l.picture === u.picture)}
          laying={laying}
        />
      ))}
      {laying.pictures.length > 0 && (
        <div className="photo-paper">
          <p className="quiet small">
            True in the plane it was squared up in: what stands nearer to the camera looks larger.
          </p>
          <span className="quiet small">How strongly they show</span>
          <Slider
            aria-label="How strongly pictures show"
            min={0}
            max={1}
            step={0.05}
            value={paper}
            tooltip={{ open: false }}
            onChange={(n) => set({ paper: n })}
          />
        </div>
      )}
    </section>
  );
}

/** The place of the plane in the middle of the view. */
function lookedAt(): XY {
  const { sheet } = useHand.getState();
  const view = document.querySelector(".sketch-layer");
  const middle: XY = [(view?.clientWidth ?? 0) / 2, (view?.clientHeight ?? 0) / 2];
  return (sheet && toPlane(sheet, middle)) ?? [0, 0];
}
