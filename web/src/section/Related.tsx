import { Checkbox } from "antd";
import { useTool } from "../sheets/tool";

/** Whether the sketch is to hold what the pieces nearly hold already. */
export function Related() {
  const relate = useTool((s) => s.section?.relate ?? true);
  const set = useTool((s) => s.setSection);
  return (
    <Checkbox
      checked={relate}
      title="level, parallel, square, tangent, equal and concentric within the tolerance; single ones can be removed in the sketch"
      onChange={(e) => set({ relate: e.target.checked })}
    >
      Hold what nearly holds among the pieces
    </Checkbox>
  );
}
