import { api, type FaceFacts, got } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { faceTitle, inSentence } from "../steps/stepValues";
import { useFetchFaces } from "../steps/useFaces";
import { awayFromCamera, type BodyHit, pickBodies, pickScan } from "../view/stage";
import { useArmed } from "./armed";
import { type EdgeHit, pickEdges } from "./edges";
import type { HoveredEdge } from "./hover";
import { edgeTitle } from "./parts";
import { usePicks } from "./picks";
import { type EdgeFacts, useFetchBorders } from "./useBorders";

export interface Under {
  key: string;
  glyph: string;
  text: string;
  far: number;
  face?: { body: string; name: string };
  edge?: HoveredEdge;
  run: () => void;
}

/** Everything that lies under a place on the screen, near to far, also what is covered. */
export function useUnderPointer(): (x: number, y: number) => Promise<Under[]> {
  const { job, unit, scanKey } = useBench();
  const fetchFaces = useFetchFaces();
  const fetchBorders = useFetchBorders();
  const edgeRow = (hit: EdgeHit, edge: EdgeFacts): Under => ({
    key: `${hit.key}-edge-${hit.edge}`,
    glyph: "edge",
    text: `${edge.label}: ${inSentence(edgeTitle(edge, unit))}`,
    far: hit.distance,
    edge: { key: hit.key, edge: hit.edge },
    run: () => {
      const pick = { body: hit.body, key: hit.key, index: hit.edge, edge };
      const { armed } = useArmed.getState();
      if (armed?.onEdge) armed.onEdge(pick);
      else usePicks.getState().pickEdge(pick, hit.point, false);
    },
  });
  const bodyRow = (hit: BodyHit, face: FaceFacts): Under => ({
    key: `${hit.key}-${hit.face}`,
    glyph: face.kind,
    text: `${face.label}: ${inSentence(faceTitle(face, unit))}`,
    far: hit.distance,
    face: { body: hit.body, name: face.name },
    run: () => usePicks.getState().pickFace({ body: hit.body, key: hit.key, index: hit.face, face }, hit.point, false),
  });
  const onScan = async (x: number, y: number): Promise<Under[]> => {
    const scan = pickScan(x, y);
    if (!scan) return [];
    const far = awayFromCamera(scan.point);
    const query = { scan: scanKey, facet: scan.facet };
    const held = await got(api.GET("/api/jobs/{job_id}/regions-at", { params: { path: { job_id: job.id }, query } }));
    const regions = job.recipe.steps.filter((s) => held.includes(s.id));
    return [
      {
        key: "scan",
        glyph: "scan",
        text: `Scan, facet ${scan.facet.toLocaleString("en")}`,
        far,
        run: () => usePicks.getState().start(scan.facet, scan.point),
      },
      ...regions.map((s) => ({
        key: s.id,
        glyph: "region",
        text: `Region '${s.name}'`,
        far: far + 1e-3,
        run: () => useTool.getState().select(s.id),
      })),
    ];
  };
  return async (x, y) => {
    const out = await onScan(x, y);
    for (const hit of pickBodies(x, y, true)) {
      const face = (await fetchFaces(hit.key))[hit.face];
      if (face) out.push(bodyRow(hit, face));
    }
    for (const hit of pickEdges(x, y, true)) {
      const edge = (await fetchBorders(hit.key)).edges[hit.edge];
      if (edge?.name && !edge.smooth) out.push(edgeRow(hit, edge));
    }
    return out.sort((a, b) => a.far - b.far);
  };
}
