import { api, type FaceFacts, got } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { faceTitle, inSentence } from "../steps/stepValues";
import { useFetchFaces } from "../steps/useFaces";
import { awayFromCamera, type BodyHit, pickBodies, pickScan } from "../view/stage";
import { useArmed } from "./armed";
import { type EdgeHit, pickEdges } from "./edges";
import type { HoveredEdge } from "./hover";
import { offeredAt } from "./offered";
import { edgeTitle } from "./parts";
import { usePicks } from "./picks";
import type { Piece, Spot } from "./spots";
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
    run: () => {
      const pick = { body: hit.body, key: hit.key, index: hit.face, face };
      const { armed } = useArmed.getState();
      if (armed) armed.onFace?.(pick);
      else usePicks.getState().pickFace(pick, hit.point, false);
    },
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
        run: () => {
          const { armed } = useArmed.getState();
          if (armed) armed.onFacet?.(scan.facet, scan.point);
          else usePicks.getState().start(scan.facet, scan.point);
        },
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
  const offeredRow = (far: number, at: Spot | Piece): Under => ({
    key: at.key,
    glyph: "mark" in at ? "point" : "sketch",
    text: at.said.replace(/^./, (c) => c.toUpperCase()),
    far,
    run: () => useArmed.getState().armed?.onPart?.(at.ref),
  });
  /** The bodies whose faces lie there, as a whole, behind everything of theirs that is nearer. */
  const bodyRows = (hits: readonly BodyHit[]): Under[] =>
    [...new Map(hits.map((h) => [h.key, h])).values()].map((hit) => ({
      key: `${hit.key}-body`,
      glyph: "body",
      text: `Body '${job.build.result?.bodies.find((b) => b.id === hit.body)?.name ?? "body"}'`,
      far: hit.distance,
      run: () => usePicks.getState().setParts({ bodies: [{ body: hit.body, key: hit.key }] }, hit.point, "replace"),
    }));
  return async (x, y) => {
    const { armed } = useArmed.getState();
    const offered = armed?.onPart ? offeredAt(x, y) : null;
    const out = armed && !armed.onFacet ? [] : await onScan(x, y);
    if (offered) out.push(offeredRow(0, offered));
    if (!armed) out.push(...bodyRows(pickBodies(x, y, true)));
    if (armed && !armed.onFace && !armed.onEdge) return out;
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
