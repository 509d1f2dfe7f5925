import { Button } from "antd";
import { useBench } from "../job/context";
import { length } from "../units";
import { goTo } from "../view/stage";
import { type Frame, inSpace, type Shown } from "./drawing";
import { useHandOf } from "./store";
import type { Do } from "./stroke";

/** Ends that nearly meet, each with what would close it; and what bounds nothing. */
export function SketchGaps({ shown, frame, act }: { shown: Shown; frame: Frame; act: Do }) {
  const { unit } = useBench();
  const { set } = useHandOf("set");
  const loose = [...new Set(shown.loose)];
  return (
    <>
      {shown.gaps.map((g, k) => (
        <div key={`${g.between.join()}${g.at.join()}`} className="sketch-gap">
          <button type="button" className="link" onClick={() => goTo(inSpace(frame, [g.at[0], g.at[1]]))}>
            Gap {k + 1}: {length(g.width, unit, 1)} between {g.between.join(" and ")}
          </button>
          <Button
            size="small"
            onClick={() => void act([{ act: "relate", kind: g.mend.kind, of: [...g.mend.of], value: null }])}
          >
            Close it
          </Button>
        </div>
      ))}
      {loose.length > 0 && (
        <p className="quiet small">
          {loose.length} {loose.length === 1 ? "piece bounds" : "pieces bound"} nothing.{" "}
          <Button size="small" type="link" onClick={() => set({ chosen: loose })}>
            Show {loose.length === 1 ? "it" : "them"}
          </Button>
        </p>
      )}
    </>
  );
}
