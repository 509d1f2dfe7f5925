import { useCallback } from "react";
import type { Job } from "../api/queries";
import { useBench } from "../job/context";
import { useFetchFaces } from "../steps/useFaces";
import { useShownBodies } from "../view/useShownBodies";
import { type EdgePick, type FacePick, usePicks } from "./picks";
import { useFetchBorders } from "./useBorders";

export type NamedSet = NonNullable<Job["recipe"]["sets"]>[number];

/** Chooses the parts of a named set again, on the bodies as they are now, and says how many of them are no longer there. */
export function useTakeSet(): (set: NamedSet) => Promise<void> {
  const { tell } = useBench();
  const bodies = useShownBodies();
  const fetchFaces = useFetchFaces();
  const fetchBorders = useFetchBorders();
  return useCallback(
    async (set) => {
      const faces: FacePick[] = [];
      const edges: EdgePick[] = [];
      try {
        for (const { id: body, key } of bodies) {
          const named = (part: "face" | "edge") =>
            new Set(set.parts.filter((p) => p.body === body && p.part === part).map((p) => p.name));
          const [flat, sharp] = [named("face"), named("edge")];
          if (flat.size)
            for (const [index, face] of (await fetchFaces(key)).entries())
              if (flat.has(face.name)) faces.push({ body, key, index, face });
          if (sharp.size)
            for (const [index, edge] of (await fetchBorders(key)).edges.entries())
              if (sharp.has(edge.name)) edges.push({ body, key, index, edge });
        }
      } catch (e) {
        tell(e);
        return;
      }
      const there = new Set([
        ...faces.map((f) => `face ${f.body} ${f.face.name}`),
        ...edges.map((e) => `edge ${e.body} ${e.edge.name}`),
      ]);
      const lost = set.parts.filter((p) => !there.has(`${p.part} ${p.body} ${p.name}`)).length;
      if (lost)
        tell(new Error(`${lost} of ${set.parts.length} parts of '${set.name}' are no longer there, or are hidden`));
      if (there.size)
        usePicks
          .getState()
          .setParts({ faces, edges }, faces[0]?.face.centre ?? edges[0]?.edge.centre ?? null, "replace");
    },
    [bodies, fetchFaces, fetchBorders, tell],
  );
}
