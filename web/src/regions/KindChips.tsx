import { Button } from "antd";
import { useBench } from "../job/context";
import { Glyph } from "../ui/Glyph";
import { count } from "../units";
import { kindHue } from "../view/regionColours";
import type { RegionRow } from "./facts";
import { useRegions } from "./store";

/** Which kinds of regions are shown, and how many there are of each. */
export function KindChips({ rows }: { rows: RegionRow[] }) {
  const { palette } = useBench();
  const regions = useRegions();
  const kinds = [...new Set(rows.map((r) => r.kind))];
  return (
    <fieldset className="kind-chips">
      <legend className="hidden-label">Kinds that are shown</legend>
      {kinds.map((k) => {
        const on = !regions.hidden.includes(k);
        return (
          <Button
            key={k}
            size="small"
            aria-pressed={on}
            className={on ? "chip" : "chip off"}
            onClick={() => regions.set({ hidden: on ? [...regions.hidden, k] : regions.hidden.filter((x) => x !== k) })}
          >
            <span style={{ color: kindHue(k, palette) }}>
              <Glyph kind={k} />
            </span>
            {count(rows.filter((r) => r.kind === k).length)} {k}
          </Button>
        );
      })}
    </fieldset>
  );
}
