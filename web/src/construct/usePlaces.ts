import { useMemo } from "react";
import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { useSeen } from "../job/seen";
import { useTool } from "../sheets/tool";
import { usePassing } from "../steps/passing";
import { useAppearance } from "../view/appearance";
import { isOut, isUnderSketch } from "../view/useThings";
import { curvesOf, factsOf, measuresOf, placesOf } from "./places";

/** Construction geometry and measurements to be drawn now. */
export function usePlaces() {
  const { job, unit } = useBench();
  const passing = usePassing((s) => s.passing);
  const asOf = useSeen((s) => s.asOf);
  const { hidden, shown } = useAppearance();
  const chosen = useTool((s) => s.step);
  const steps = job.build.result?.steps;
  const recipe = job.recipe.steps;
  const kinds = useKinds();
  return useMemo(() => {
    const out = (id: string) =>
      id !== chosen && isOut({ id, quiet: isUnderSketch(recipe, kinds, id) }, { hidden, shown });
    const rows = factsOf(steps ?? [], passing, asOf).filter((r) => r.passing || !out(r.id));
    return { places: placesOf(rows), measures: measuresOf(rows, unit), curves: curvesOf(rows) };
  }, [steps, recipe, kinds, passing, asOf, hidden, shown, chosen, unit]);
}
