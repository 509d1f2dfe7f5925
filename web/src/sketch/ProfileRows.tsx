import { Button, Checkbox } from "antd";
import { useBench } from "../job/context";
import { useOpenExtrude } from "../section/useOpenExtrude";
import { area } from "../units";
import type { Shown } from "./drawing";
import { useHandOf } from "./store";

/** Closed regions: which of them something is made of. */
export function ProfileRows({ shown, step }: { shown: Shown; step: string }) {
  const { unit } = useBench();
  const { profiles, set } = useHandOf("profiles", "set");
  const extrude = useOpenExtrude();
  if (!shown.regions.length) return null;
  const known = profiles.filter((p) => shown.regions.some((r) => r.name === p));
  const total = shown.regions.filter((r) => known.includes(r.name)).reduce((s, r) => s + r.area, 0);
  return (
    <>
      <div className="field-label">Closed regions</div>
      {shown.regions.slice(0, 8).map((r) => (
        <Checkbox
          key={r.name}
          className="profile-row"
          checked={known.includes(r.name)}
          onChange={(e) => set({ profiles: e.target.checked ? [...known, r.name] : known.filter((p) => p !== r.name) })}
        >
          {r.name} <span className="figures">{area(r.area, unit)}</span>
        </Checkbox>
      ))}
      {shown.regions.length > 8 && (
        <p className="quiet small">and {shown.regions.length - 8} more, by a click in the drawing</p>
      )}
      {known.length > 0 && (
        <Button disabled={!shown.solved} onClick={() => extrude(step, null, known)}>
          Extrude {known.length === 1 ? "this" : `these ${known.length}`}, {area(total, unit)}
        </Button>
      )}
    </>
  );
}
