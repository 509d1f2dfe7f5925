import type { Vec3 } from "../api/build";
import { useSectionView } from "../clip/useSectionView";
import { useAppearance } from "../view/appearance";
import { SIDES } from "../view/sides";
import { faceOn, lookFrom, previousView } from "../view/stage";
import { usePlanar } from "../view/usePlanar";
import type { Action } from "./action";
import { useOpenList } from "./open";

/** Ways to look at the part. */
export function useLookActions(onHome: () => void): Action[] {
  const planar = usePlanar();
  const section = useSectionView();
  const open = useOpenList((s) => s.set);
  const { facetEdges, coloured, parallel, second, secondWide, set } = useAppearance();
  const group = "Look" as const;
  return [
    { id: "fit", group, title: "Fit view", help: "all of the part, from where it is usually seen", keys: "w", run: onHome },
    { id: "square", group, title: "Look squarely at the chosen", help: "a plane, from its outer side", keys: "s", idle: !planar, run: () => planar && faceOn(planar.at, planar.along) },
    { id: "square-back", group, title: "Look squarely at the chosen, from behind", help: "a plane, from its inner side", keys: "S", idle: !planar, run: () => planar && faceOn(planar.at, planar.along.map((x) => -x) as Vec3) },
    { id: "section-view", group, title: section.view ? "Section view off" : "Section view", help: "cut open and hatched, at the chosen plane or through the middle; stays on while you work", keys: "c", run: section.toggle },
    { id: "parallel", group, title: parallel ? "See it as an eye does" : "See it in parallel", help: "parallel edges stay parallel on screen, or come closer with the distance", keys: "p", run: () => set({ parallel: !parallel }) },
    { id: "second", group, title: second ? "One view" : "Second view beside", help: "the same place from another side, in a corner of the view", keys: "v", run: () => set({ second: second ? null : "5" }) },
    { id: "halves", group, title: secondWide && second ? "Second view in the corner" : "Two views side by side", help: "the same place from another side, each in half of the room", keys: "V", run: () => set({ second: second ?? "5", secondWide: !(secondWide && second) }) },
    { id: "previous", group, title: "Previous view", help: "as it was before the view was moved for you", keys: "b", run: previousView },
    { id: "sides", group, title: "Look from a side …", help: "then a digit: six sides and three slanted ways", keys: "q", run: () => open("sides") },
    ...SIDES.map((s) => ({ id: `side-${s.key}`, group, title: s.title, help: "the same place, from another side", keys: `q ${s.key}`, run: () => lookFrom(s.from) })),
    { id: "facets", group, title: `${facetEdges ? "Hide" : "Show"} the sides of the facets`, help: "the scan as the mesh that it is", run: () => set({ facetEdges: !facetEdges }) },
    { id: "colour", group, title: coloured ? "Without colours" : "Colour by deviation", help: "how far the scan lies from the model", keys: "d", run: () => set({ coloured: !coloured }) },
  ]; // biome-ignore format: a row an action
}
