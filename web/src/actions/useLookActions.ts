import { baseOf } from "../api/facts";
import { useBench } from "../job/context";
import { usePicks } from "../pick/picks";
import { useGrow } from "../pick/useGrow";
import { useTool } from "../sheets/tool";
import { useAppearance } from "../view/appearance";
import { SIDES } from "../view/sides";
import { faceOn, lookFrom, previousView } from "../view/stage";
import type { Action } from "./action";
import { useOpenList } from "./open";

/** A plane to look at squarely: a picked face's, the grown region's, or the open step's. */
function useSquare(): (() => void) | null {
  const { job } = useBench();
  const faces = usePicks((s) => s.faces);
  const { grown } = useGrow();
  const step = useTool((s) => s.step);
  const face = faces.at(-1)?.face;
  if (face?.axis) return () => faceOn(face.centre, face.axis!);
  if (grown?.surface.kind === "plane") return () => faceOn(grown.surface.origin, grown.surface.axis);
  const base = baseOf(job.build.result?.steps.find((s) => s.id === step));
  return base?.shape === "plane" ? () => faceOn(base.at, base.along) : null;
}

/** Ways to look at the part. */
export function useLookActions(onHome: () => void): Action[] {
  const square = useSquare();
  const open = useOpenList((s) => s.set);
  const { facetEdges, coloured, set } = useAppearance();
  const group = "Look" as const;
  return [
    { id: "fit", group, title: "Fit view", help: "all of the part, from where it is usually seen", keys: "w", run: onHome },
    { id: "square", group, title: "Look squarely at the chosen", help: "a plane, from its outer side", keys: "s", idle: !square, run: () => square?.() },
    { id: "previous", group, title: "Previous view", help: "as it was before the view was moved for you", keys: "b", run: previousView },
    { id: "sides", group, title: "Look from a side …", help: "then a digit: six sides and three slanted ways", keys: "q", run: () => open("sides") },
    ...SIDES.map((s) => ({ id: `side-${s.key}`, group, title: s.title, help: "the same place, from another side", keys: `q ${s.key}`, run: () => lookFrom(s.from) })),
    { id: "facets", group, title: `${facetEdges ? "Hide" : "Show"} the sides of the facets`, help: "the scan as the mesh that it is", run: () => set({ facetEdges: !facetEdges }) },
    { id: "colour", group, title: coloured ? "Without colours" : "Colour by deviation", help: "how far the scan lies from the model", keys: "d", run: () => set({ coloured: !coloured }) },
  ]; // biome-ignore format: a row an action
}
