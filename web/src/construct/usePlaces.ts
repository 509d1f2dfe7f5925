import { useMemo } from "react";
import { useBench } from "../job/context";
import { useSeen } from "../job/seen";
import { usePassing } from "../steps/passing";
import { useAppearance } from "../view/appearance";
import { curvesOf, factsOf, measuresOf, placesOf } from "./places";

/** Construction geometry and measurements to be drawn now. */
export function usePlaces() {
  const { job, unit } = useBench();
  const passing = usePassing((s) => s.passing);
  const asOf = useSeen((s) => s.asOf);
  const hidden = useAppearance((s) => s.hidden);
  const steps = job.build.result?.steps;
  return useMemo(() => {
    const rows = factsOf(steps ?? [], passing, asOf).filter((r) => !hidden.includes(r.id));
    return { places: placesOf(rows), measures: measuresOf(rows, unit), curves: curvesOf(rows) };
  }, [steps, passing, asOf, hidden, unit]);
}
