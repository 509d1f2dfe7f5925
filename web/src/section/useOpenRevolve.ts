import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { plainParams } from "../pick/starts";
import { useBegin } from "../sheets/useBegin";
import { axisLine } from "../sketch/axisLine";

/** Prepares a turn of a sketch about the axis that its profile was taken beside, or its only construction line; where it has none, or several,
 * the axis is asked for. */
export function useOpenRevolve(): (sketch: string, about?: { id: string | null }) => void {
  const { job } = useBench();
  const kinds = useKinds();
  const begin = useBegin();
  return (sketch, about) => {
    const step = job.recipe.steps.find((s) => s.id === sketch);
    const axis = about ?? (step?.params.source === "radial" ? step.params.axis : axisLine(step));
    begin(kinds.revolve, {
      ...plainParams(kinds.revolve?.fields ?? []),
      sketch: { id: sketch },
      ...(axis ? { axis } : {}),
    });
  };
}
