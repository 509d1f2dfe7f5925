import { Button } from "antd";
import type { SectionOut } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { area, signed, typed } from "../units";

/** Says that the plane lies in a face, and moves it to where it does not: one click to either side. */
export function AlongFace({ along }: { along: NonNullable<SectionOut["along"]> }) {
  const { unit } = useBench();
  const recut = useTool((s) => s.recut);
  const ways = [along.below, along.above].filter((o): o is number => o != null);
  return (
    <div className="problem along-face" role="alert">
      <div className="problem-what">The plane runs along a face</div>
      <div className="problem-detail">
        {area(along.area, unit)} of the scan lie in it: there it cuts noise instead of a border.{" "}
        {ways.length > 0 ? "Beside it the cut is clean." : "Turn it, or move it into the part."}
      </div>
      {ways.length > 0 && (
        <div className="along-ways">
          Move to
          {ways.map((offset) => (
            <Button
              key={offset}
              size="small"
              aria-label={`Move the plane to ${signed(offset, unit)}`}
              onClick={() => recut({ offset: typed(offset, unit), mark: "assumed", note: "beside the face" })}
            >
              {signed(offset, unit)}
            </Button>
          ))}
        </div>
      )}
    </div>
  );
}
