import { useMemo } from "react";
import { useBench } from "../bench/context";
import { useLook } from "../bench/stores";
import { factsOf, measuresOf, placesOf } from "./places";

/** Construction geometry and measurements to be drawn now. */
export function usePlaces() {
  const { job, unit } = useBench();
  const { passing, asOf } = useLook();
  const steps = job.build.result?.steps;
  return useMemo(() => {
    const rows = factsOf(steps ?? [], passing, asOf);
    return { places: placesOf(rows), measures: measuresOf(rows, unit) };
  }, [steps, passing, asOf, unit]);
}
