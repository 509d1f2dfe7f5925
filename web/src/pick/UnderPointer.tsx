import { useEffect, useRef, useState } from "react";
import { api, type FaceFacts, got } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { faceTitle, inSentence } from "../steps/stepValues";
import { useFetchFaces } from "../steps/useFaces";
import { Glyph } from "../ui/Glyph";
import { length } from "../units";
import { usePointed } from "../view/pointed";
import { awayFromCamera, type BodyHit, pickBodies, pickScan, stage } from "../view/stage";
import { useArmed } from "./armed";
import { type EdgeHit, pickEdges } from "./edges";
import { type HoveredEdge, useHover } from "./hover";
import { edgeTitle } from "./parts";
import { usePicks } from "./picks";
import { type EdgeFacts, useFetchBorders } from "./useBorders";

interface Row {
  key: string;
  glyph: string;
  text: string;
  far: number;
  face?: { body: string; name: string };
  edge?: HoveredEdge;
  run: () => void;
}

/** Right-click lists everything that lies under the pointer, near to far, also what is covered, and picks from it. */
export function UnderPointer({ host }: { host: React.RefObject<HTMLDivElement | null> }) {
  const { job, unit, scanKey, tell } = useBench();
  const fetchFaces = useFetchFaces();
  const fetchBorders = useFetchBorders();
  const [at, setAt] = useState<{ x: number; y: number } | null>(null);
  const [rows, setRows] = useState<Row[] | null>(null);
  const from = useRef<{ x: number; y: number } | null>(null);
  const ask = useRef<(x: number, y: number) => Promise<void>>(async () => undefined);
  ask.current = async (x, y) => {
    const box = host.current!.getBoundingClientRect();
    // The list stays inside the view.
    setAt({ x: Math.min(x - box.left, box.width - 390), y: Math.min(y - box.top, box.height - 200) });
    setRows(null);
    const picks = usePicks.getState();
    const out: Row[] = [];
    try {
      const scan = pickScan(x, y);
      if (scan) {
        const far = awayFromCamera(scan.point);
        out.push({
          key: "scan",
          glyph: "scan",
          text: `Scan, facet ${scan.facet.toLocaleString("en")}`,
          far,
          run: () => picks.start(scan.facet, scan.point),
        });
        const query = { scan: scanKey, facet: scan.facet };
        const held = await got(
          api.GET("/api/jobs/{job_id}/regions-at", { params: { path: { job_id: job.id }, query } }),
        );
        for (const id of held) {
          const step = job.recipe.steps.find((s) => s.id === id);
          if (step)
            out.push({
              key: id,
              glyph: "region",
              text: `Region '${step.name}'`,
              far: far + 1e-3,
              run: () => useTool.getState().select(id),
            });
        }
      }
      const hits = pickBodies(x, y, true);
      for (const hit of hits) {
        const faces = await fetchFaces(hit.key);
        const face = faces[hit.face];
        if (face) out.push(bodyRow(hit, face));
      }
      for (const hit of pickEdges(x, y, true)) {
        const edge = (await fetchBorders(hit.key)).edges[hit.edge];
        if (edge?.name && !edge.smooth) out.push(edgeRow(hit, edge));
      }
      setRows(out.sort((a, b) => a.far - b.far));
    } catch (e) {
      setAt(null);
      tell(e);
    }
  };
  const edgeRow = (hit: EdgeHit, edge: EdgeFacts): Row => ({
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
  const bodyRow = (hit: BodyHit, face: FaceFacts): Row => ({
    key: `${hit.key}-${hit.face}`,
    glyph: face.kind,
    text: `${face.label}: ${inSentence(faceTitle(face, unit))}`,
    far: hit.distance,
    face: { body: hit.body, name: face.name },
    run: () => usePicks.getState().pickFace({ body: hit.body, key: hit.key, index: hit.face, face }, hit.point, false),
  });
  useEffect(() => {
    const el = host.current;
    if (!el) return;
    const down = (e: PointerEvent) => {
      if (e.button === 2) from.current = { x: e.clientX, y: e.clientY };
      else if (!(e.target as HTMLElement).closest(".under")) setAt(null);
    };
    const menu = (e: MouseEvent) => {
      e.preventDefault();
      const f = from.current;
      if (f && Math.hypot(e.clientX - f.x, e.clientY - f.y) < 4) void ask.current(e.clientX, e.clientY);
    };
    const key = (e: KeyboardEvent) => e.key === "Escape" && setAt(null);
    el.addEventListener("pointerdown", down);
    el.addEventListener("contextmenu", menu);
    window.addEventListener("keydown", key);
    return () => {
      el.removeEventListener("pointerdown", down);
      el.removeEventListener("contextmenu", menu);
      window.removeEventListener("keydown", key);
    };
  }, [host]);
  const setLook = usePointed((s) => s.set);
  if (!at) return null;
  const nearest = rows?.[0]?.far ?? 0;
  return (
    <div
      className="under"
      role="menu"
      aria-label="Under the pointer"
      style={{ left: at.x, top: at.y }}
      onMouseLeave={() => {
        setLook({ offered: null });
        useHover.getState().over(null);
      }}
    >
      <div className="field-label">Under the pointer, near to far</div>
      {rows === null && <div className="quiet">looking …</div>}
      {rows?.length === 0 && <div className="quiet">Nothing lies here.</div>}
      {rows?.map((r) => (
        <button
          type="button"
          role="menuitem"
          key={r.key}
          onMouseEnter={() => {
            setLook({ offered: r.face ?? null });
            useHover.getState().over(r.edge ?? null);
            stage.now?.invalidate();
          }}
          onClick={() => {
            setAt(null);
            setLook({ offered: null });
            r.run();
          }}
        >
          <Glyph kind={r.glyph} />
          <span>{r.text}</span>
          <span className="figures">{r.far - nearest < 0.05 ? "front" : `+${length(r.far - nearest, unit)}`}</span>
        </button>
      ))}
    </div>
  );
}
