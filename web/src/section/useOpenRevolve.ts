import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { usePicks } from "../pick/picks";
import { plainParams } from "../pick/starts";
import { useTool } from "../sheets/tool";
import { axisLine } from "../sketch/axisLine";

/** Prepares a turn of a sketch about its only construction line; where it has none, or several, the axis is asked for. */
export function useOpenRevolve(): (sketch: string) => void {
  const { job } = useBench();
  const kinds = useKinds();
  return (sketch) => {
    usePicks.getState().clear();
    const axis = axisLine(job.recipe.steps.find((s) => s.id === sketch));
    useTool.getState().openDraft({
      kind: "revolve",
      params: { ...plainParams(kinds.revolve?.fields ?? []), sketch: { id: sketch }, ...(axis ? { axis } : {}) },
    });
  };
}
