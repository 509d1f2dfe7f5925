import { api, got, type SectionOut } from "../api/client";
import { useBench } from "../job/context";
import { useRegions } from "../regions/store";
import { leftOut, pieceKey, toggled } from "../section/taken";
import { useTool } from "../sheets/tool";
import { useHand } from "../sketch/store";
import { useFetchFaces } from "../steps/useFaces";
import { useAppearance } from "../view/appearance";
import { usePointed } from "../view/pointed";
import { awayFromCamera, pickBodies, pickScan } from "../view/stage";
import { useArmed } from "./armed";
import { type EdgeHit, pickEdges } from "./edges";
import { offeredAt } from "./offered";
import { usePicks } from "./picks";
import { type Click, nearestPath } from "./pointer";
import { useFetchBorders } from "./useBorders";

const REMOVE_BRUSH = 3; // facet-sized patches are useless; three millimetres is a visible dab
const SAME_MM = 0.6; // scan and body lie within the noise of each other: then what is less see-through is meant

/** What a click in the view does, by what is open and what lies there. */
export function useClicks(fitted: SectionOut | undefined): (click: Click) => void {
  const { job, scanId, scanKey, tell } = useBench();
  const fetchFaces = useFetchFaces();
  const fetchBorders = useFetchBorders();
  const look = useAppearance();
  const point = usePointed((s) => s.set);
  const picks = usePicks();
  const tool = useTool();
  const { armed } = useArmed();
  const path = { job_id: job.id };

  const takePieces = (click: Click) => {
    if (!fitted || !tool.section) return;
    const paths = fitted.loops.flatMap((l) => l.pieces.map((p) => p.path));
    const keys = fitted.loops.flatMap((l, i) => l.pieces.map((_, j) => pieceKey(i, j)));
    const hit = nearestPath(click.x, click.y, paths);
    if (hit === null) return;
    const key = keys[hit]!;
    // A click takes the piece; with Shift its whole loop.
    const group = click.shift ? keys.filter((k) => k.split(".")[0] === key.split(".")[0]) : [key];
    const left = leftOut(fitted, tool.section);
    tool.setSection({ left: toggled(left, group, left.includes(key)) });
  };

  /** An edge is meant where it is seen: not under a scan that is looked at, nor while deviations are read. */
  const edgeWins = (edge: EdgeHit): boolean => {
    if (look.coloured || tool.panel === "regions") return false;
    const opaque = look.opacities[edge.body] ?? look.bodyOpacity;
    const scanSeen = look.scanOpacity > 0.01 && !look.hidden.includes(scanId);
    const scan = scanSeen ? pickScan(edge.x, edge.y) : null;
    const before = scan !== null && awayFromCamera(scan.point) < edge.distance + SAME_MM;
    return !(before && look.scanOpacity >= opaque && !look.unpickable.includes("scan"));
  };

  const drawing = useHand((s) => s.sheet !== null);
  return (click) => {
    if (drawing && !armed) return; // the pencil has the view
    if (tool.section) return takePieces(click);
    const { x, y, shift, alt } = click;
    if (tool.panel === "regions" && !armed) {
      const { labels, scan: of, chosen, set } = useRegions.getState();
      const at = labels && of === scanKey ? pickScan(x, y) : null;
      const label = at ? labels?.[at.facet] : undefined;
      if (label === undefined || label < 0) return;
      const rest = chosen.filter((k) => k !== label);
      set({ chosen: shift ? (rest.length < chosen.length ? rest : [...chosen, label]) : [label] });
      return;
    }
    const part = armed?.onPart ? offeredAt(x, y) : null;
    if (part) return armed!.onPart!(part.ref);
    const edge = armed && !armed.onEdge ? undefined : pickEdges(x, y)[0];
    if (edge && (armed?.onEdge || edgeWins(edge))) {
      fetchBorders(edge.key)
        .then((found) => {
          const row = found.edges[edge.edge];
          if (!row?.name) return;
          const pick = { body: edge.body, key: edge.key, index: edge.edge, edge: row };
          if (armed?.onEdge) return armed.onEdge(pick);
          if (tool.step || tool.draft) tool.close();
          picks.pickEdge(pick, edge.point, shift);
        })
        .catch(tell);
      return;
    }
    const scanFree =
      !look.unpickable.includes("scan") && !look.hidden.includes(scanId) && (look.scanOpacity > 0.01 || look.coloured);
    const scan = scanFree && (!armed || armed.onFacet) ? pickScan(x, y) : null;
    const body = armed && !armed.onFace ? undefined : pickBodies(x, y)[0];
    const fit = job.build.result?.fit;
    if (look.coloured && scan && fit && !fit.figures.sampled && !armed) {
      const body = { fit: fit.key, facet: scan.facet, point: scan.point };
      got(api.POST("/api/jobs/{job_id}/probe", { params: { path }, body }))
        .then((p) => point({ probe: { point: scan.point, deviation: p.deviation, facet: p.source_facet } }))
        .catch(tell);
      return;
    }
    const gap = scan && body ? awayFromCamera(scan.point) - body.distance : 0;
    const opaque = body ? (look.opacities[body.body] ?? look.bodyOpacity) : 0;
    const bodyWins = body && (!scan || gap > SAME_MM || (Math.abs(gap) <= SAME_MM && opaque > look.scanOpacity));
    if (bodyWins) {
      fetchFaces(body.key)
        .then((faces) => {
          const face = faces[body.face];
          if (!face) return;
          const pick = { body: body.body, key: body.key, index: body.face, face };
          if (armed) return armed.onFace?.(pick);
          if (tool.step || tool.draft) tool.close();
          picks.pickFace(pick, body.point, shift);
        })
        .catch(tell);
      return;
    }
    if (!scan) return armed ? undefined : picks.clear();
    if (armed?.onFacet) return armed.onFacet(scan.facet, scan.point);
    if (shift && picks.seeds.length) picks.add(scan.facet);
    else if (alt && picks.seeds.length) {
      const body = { scan: scanKey, facet: scan.facet, radius_mm: REMOVE_BRUSH };
      got(api.POST("/api/jobs/{job_id}/brush", { params: { path }, body }))
        .then(picks.remove)
        .catch(tell);
    } else {
      if (tool.step || tool.draft) tool.close();
      picks.start(scan.facet, scan.point);
    }
  };
}
