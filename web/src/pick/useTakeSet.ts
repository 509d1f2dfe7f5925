import { useCallback } from "react";
import { api, got } from "../api/client";
import type { Job } from "../api/queries";
import { useBench } from "../job/context";
import { useFetchFaces } from "../steps/useFaces";
import { unpackU4 } from "../view/buffers";
import { useShownBodies } from "../view/useShownBodies";
import { type BodyPick, type EdgePick, type FacePick, usePicks } from "./picks";
import { useFetchBorders } from "./useBorders";

export type NamedSet = NonNullable<Job["recipe"]["sets"]>[number];
type Part = NamedSet["parts"][number];

/** What tells a part from others. */
const called = (p: Part) =>
  p.part === "facets" ? "facets" : "id" in p ? `${p.part} ${p.id}` : `${p.part} ${p.body} ${p.name}`;

/** Bodies and evidence of a set: what can be hidden and shown as a whole. */
export const wholes = (set: NamedSet): string[] =>
  set.parts.flatMap((p) => (p.part === "body" || p.part === "evidence" ? [p.id] : []));

/** Chooses the parts of a named set again, on the scan and the bodies as they are now, and says how many are no longer there. */
export function useTakeSet(): (set: NamedSet) => Promise<void> {
  const { job, scanKey, tell } = useBench();
  const bodies = useShownBodies();
  const fetchFaces = useFetchFaces();
  const fetchBorders = useFetchBorders();
  return useCallback(
    async (set) => {
      const wanted = new Set(set.parts.map(called));
      const faces: FacePick[] = [];
      const edges: EdgePick[] = [];
      const whole: BodyPick[] = [];
      let facets = new Uint32Array();
      try {
        if (wanted.has("facets") && scanKey) {
          const path = { job_id: job.id, set_id: set.id };
          const packed = await got(
            api.GET("/api/jobs/{job_id}/sets/{set_id}/facets", { params: { path, query: { scan: scanKey } } }),
          );
          facets = unpackU4(packed);
        }
        for (const { id: body, key } of bodies) {
          if (wanted.has(`body ${body}`)) whole.push({ body, key });
          const has = (part: "face" | "edge") => set.parts.some((p) => p.part === part && p.body === body);
          if (has("face"))
            for (const [index, face] of (await fetchFaces(key)).entries())
              if (wanted.has(`face ${body} ${face.name}`)) faces.push({ body, key, index, face });
          if (has("edge"))
            for (const [index, edge] of (await fetchBorders(key)).edges.entries())
              if (wanted.has(`edge ${body} ${edge.name}`)) edges.push({ body, key, index, edge });
        }
      } catch (e) {
        tell(e);
        return;
      }
      const there = new Set([
        ...faces.map((f) => `face ${f.body} ${f.face.name}`),
        ...edges.map((e) => `edge ${e.body} ${e.edge.name}`),
        ...whole.map((b) => `body ${b.body}`),
        ...(facets.length > 0 ? ["facets"] : []),
        ...job.recipe.evidence.map((e) => `evidence ${e.id}`),
      ]);
      const lost = set.parts.filter((p) => !there.has(called(p))).length;
      if (lost)
        tell(new Error(`${lost} of ${set.parts.length} parts of '${set.name}' are no longer there, or are hidden`));
      const picks = usePicks.getState();
      const at = faces[0]?.face.centre ?? edges[0]?.edge.centre ?? null;
      if (faces.length || edges.length || whole.length) picks.setParts({ faces, edges, bodies: whole }, at, "replace");
      else if (facets.length) picks.setHand(facets, null);
    },
    [job, scanKey, bodies, fetchFaces, fetchBorders, tell],
  );
}
