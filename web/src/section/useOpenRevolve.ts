import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { plainParams } from "../pick/starts";
import { useBegin } from "../sheets/useBegin";
import { axisLine } from "../sketch/axisLine";

/** Prepares a turn of a sketch about its only construction line; where it has none, or several, the axis is asked for. */
export function useOpenRevolve(): (sketch: string) => void {
  const { job } = useBench();
  const kinds = useKinds();
  const begin = useBegin();
  return (sketch) => {
    const axis = axisLine(job.recipe.steps.find((s) => s.id === sketch));
    begin(kinds.revolve, {
      ...plainParams(kinds.revolve?.fields ?? []),
      sketch: { id: sketch },
      ...(axis ? { axis } : {}),
    });
  };
}
