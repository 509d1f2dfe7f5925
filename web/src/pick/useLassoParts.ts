import { useBench } from "../job/context";
import { useFetchFaces } from "../steps/useFaces";
import type { Spot } from "../view/lasso";
import { useArmed } from "./armed";
import { bodiesInside, edgesInside, facesInside } from "./inside";
import { type EdgePick, type FacePick, usePicks } from "./picks";
import { useSelecting } from "./selecting";
import { useFetchBorders } from "./useBorders";

/** What a lasso takes when it is drawn around parts of bodies: edges to be felt, faces, or bodies as a whole. */
export function useLassoParts() {
  const { tell } = useBench();
  const borders = useFetchBorders();
  const faces = useFetchFaces();
  const edgePicks = async (polygon: Spot[]): Promise<[EdgePick[], [number, number, number] | null]> => {
    const found = edgesInside(polygon, useSelecting.getState());
    const picks: EdgePick[] = [];
    for (const hit of found) {
      const edge = (await borders(hit.key)).edges[hit.at];
      if (edge?.name && !edge.smooth) picks.push({ body: hit.body, key: hit.key, index: hit.at, edge });
    }
    return [picks, found[0]?.point ?? null];
  };
  const facePicks = async (polygon: Spot[]): Promise<[FacePick[], [number, number, number] | null]> => {
    const found = facesInside(polygon, useSelecting.getState());
    const picks: FacePick[] = [];
    for (const hit of found) {
      const face = (await faces(hit.key))[hit.at];
      if (face) picks.push({ body: hit.body, key: hit.key, index: hit.at, face });
    }
    return [picks, found[0]?.point ?? null];
  };
  /** `polygon` in pixels of the page; `how`: in place of what is picked, also, or out of it. */
  return async (polygon: Spot[], how: "replace" | "add" | "take") => {
    try {
      const { what } = useSelecting.getState();
      const { armed } = useArmed.getState();
      const { setParts } = usePicks.getState();
      if (what === "edges") {
        const [picks, at] = await edgePicks(polygon);
        if (armed?.onEdges) armed.onEdges(picks);
        else setParts({ edges: picks }, at, how);
      } else if (what === "bodies") {
        const found = bodiesInside(polygon, useSelecting.getState());
        setParts({ bodies: found.map(({ body, key }) => ({ body, key })) }, found[0]?.point ?? null, how);
      } else {
        const [picks, at] = await facePicks(polygon);
        setParts({ faces: picks }, at, how);
      }
    } catch (e) {
      tell(e);
    }
  };
}
