import { Checkbox } from "antd";
import type { SectionOut } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { length } from "../units";
import { flushWithin } from "./taken";

/** Whether the sketch is to hold what the pieces nearly hold already, among themselves and beside what stands. */
export function Related({ fitted }: { fitted: SectionOut }) {
  const { job, unit } = useBench();
  const relate = useTool((s) => s.section?.relate ?? true);
  const flush = useTool((s) => s.section?.flush ?? true);
  const set = useTool((s) => s.setSection);
  return (
    <div className="check-lines">
      <Checkbox
        checked={relate}
        title="level, parallel, square, tangent, equal and concentric within the tolerance; single ones can be removed in the sketch"
        onChange={(e) => set({ relate: e.target.checked })}
      >
        Hold what nearly holds among the pieces
      </Checkbox>
      {(job.build.result?.bodies.length ?? 0) > 0 && (
        <Checkbox
          checked={flush}
          title="two measurements of one wall differ by a little: a body made of both would have slivers there"
          onChange={(e) => set({ flush: e.target.checked })}
        >
          Lay pieces on walls of bodies nearer than {length(flushWithin(fitted), unit, 1)}
        </Checkbox>
      )}
    </div>
  );
}
