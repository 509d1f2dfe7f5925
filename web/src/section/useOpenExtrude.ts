import { useBench } from "../job/context";
import { usePicks } from "../pick/picks";
import { useTool } from "../sheets/tool";
import { useShownBodies } from "../view/useShownBodies";

/** Prepares an extrusion of a sketch: added to the body there is, else as a new one. */
export function useOpenExtrude(): (sketch: string) => void {
  const { unit } = useBench();
  const bodies = useShownBodies();
  return (sketch) => {
    usePicks.getState().clear();
    const text = unit === "inch" ? "0.4 inch" : "10 mm";
    useTool.getState().openDraft({
      kind: "extrude",
      params: {
        sketch: { id: sketch },
        extent: "distance",
        distance: { text, mark: "assumed" },
        symmetric: false,
        operation: bodies.length > 0 ? "add" : "new",
        bodies: bodies.slice(0, 1).map((b) => ({ id: b.id })),
      },
    });
  };
}
