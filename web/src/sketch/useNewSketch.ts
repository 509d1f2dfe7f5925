import { useBench } from "../job/context";
import { usePicks } from "../pick/picks";
import { useTool } from "../sheets/tool";
import { useHand } from "./store";

/** Begins a sketch: on a region, construction plane or planar face, or on the xy plane where none is given. */
export function useNewSketch(): (plane?: object) => Promise<void> {
  const { edit } = useBench();
  return async (plane) => {
    const id = crypto.randomUUID();
    usePicks.getState().clear();
    const params = plane ? { plane } : {};
    if (!(await edit({ op: "add-step", id, kind: "sketch", params }))) return;
    useTool.getState().select(id);
    useHand.getState().set({ chosen: [], profiles: [] });
    useHand.getState().take("draw", "line", "chain");
  };
}
