import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Box3 } from "three";
import { api, got, type SectionOut } from "../api/client";
import { roughLength, signed, typed } from "../units";
import { BodyMesh } from "../view/BodyMesh";
import { unpackF4 } from "../view/buffers";
import { FatLines } from "../view/FatLines";
import type { ScanGeometry } from "../view/geometry";
import { Handle } from "../view/Handle";
import { OutlineLines } from "../view/OutlineLines";
import { polylineSegments, segmentsOf } from "../view/paths";
import { RegionOverlay } from "../view/RegionOverlay";
import { ScanMesh } from "../view/ScanMesh";
import { Stage } from "../view/Stage";
import { fitView, pickScan, project } from "../view/stage";
import { CardHost } from "./CardHost";
import { useBench } from "./context";
import { Legend } from "./Legend";
import { nearestPath, watchClicks } from "./pointer";
import { SelectionCard } from "./SelectionCard";
import { useLook, usePicks, useTool } from "./stores";
import { drawnPieces, pieceKey, toggled } from "./taken";
import { useDeviation } from "./useDeviation";
import { useGrow } from "./useGrow";
import { useRegion } from "./useRegion";
import { useSketch } from "./useSketch";
import { ViewBar } from "./ViewBar";

interface Props {
  raw: SectionOut | undefined;
  fitted: SectionOut | undefined;
  onKeepRegion: () => void;
  onSection: () => void;
}

const REMOVE_BRUSH = 3; // facet-sized patches are useless; three millimetres is a visible dab

export function View({ raw, fitted, onKeepRegion, onSection }: Props) {
  const { job, unit, palette, scanId, tell } = useBench();
  const look = useLook();
  const picks = usePicks();
  const tool = useTool();
  const { grown, facets, problem } = useGrow();
  const chosen = useRegion(tool.section?.region ?? tool.step);
  const sketch = useSketch(tool.extrude?.sketch ?? tool.step);
  const colours = useDeviation();
  const [scan, setScan] = useState<ScanGeometry | null>(null);
  const host = useRef<HTMLDivElement>(null);
  const afterFrame = useRef<() => void>(() => undefined);
  const probeLabel = useRef<HTMLDivElement>(null);
  const result = job.build.result;
  const scanKey = result?.scans[scanId];
  const bodies = result?.bodies ?? [];
  const size = useMemo(() => {
    const box = scan?.surface.boundingBox;
    return box ? box.max.distanceTo(box.min) : 100;
  }, [scan]);

  const home = useCallback((s: ScanGeometry) => {
    const box = s.surface.boundingBox;
    if (box) fitView(new Box3().copy(box).translate({ x: s.origin[0], y: s.origin[1], z: s.origin[2] } as never));
  }, []);
  const homed = useRef<string | null>(null);
  const ready = useCallback(
    (s: ScanGeometry) => {
      setScan(s);
      if (homed.current !== job.id) {
        homed.current = job.id;
        home(s);
      }
    },
    [home, job.id],
  );

  const now = useRef<(x: number, y: number, shift: boolean, alt: boolean) => void>(() => undefined);
  now.current = (x, y, shift, alt) => {
    if (tool.section) {
      if (!fitted) return;
      const paths = fitted.loops.flatMap((l) => l.pieces.map((p) => p.path));
      const keys = fitted.loops.flatMap((l, i) => l.pieces.map((_, j) => pieceKey(i, j)));
      const hit = nearestPath(x, y, paths);
      if (hit === null) return;
      const key = keys[hit]!;
      // A click takes the piece; with Shift its whole loop.
      const group = shift ? keys.filter((k) => k.split(".")[0] === key.split(".")[0]) : [key];
      tool.setSection({ left: toggled(tool.section.left, group, tool.section.left.includes(key)) });
      return;
    }
    const hit = pickScan(x, y);
    if (!hit) return picks.clear();
    const fit = result?.fit;
    if (look.coloured && fit && !fit.figures.sampled) {
      const body = { fit: fit.key, facet: hit.facet, point: hit.point };
      got(api.POST("/api/jobs/{job_id}/probe", { params: { path: { job_id: job.id } }, body }))
        .then((p) => look.set({ probe: { point: hit.point, deviation: p.deviation } }))
        .catch(tell);
      return;
    }
    if (shift && picks.seeds.length) picks.add(hit.facet);
    else if (alt && picks.seeds.length) {
      const body = { scan: scanId, facet: hit.facet, radius_mm: REMOVE_BRUSH };
      got(api.POST("/api/jobs/{job_id}/brush", { params: { path: { job_id: job.id } }, body }))
        .then(picks.remove)
        .catch(tell);
    } else {
      if (tool.step || tool.extrude) tool.close();
      picks.start(hit.facet, hit.point);
    }
  };
  useEffect(
    () => (host.current ? watchClicks(host.current, (c) => now.current(c.x, c.y, c.shift, c.alt)) : undefined),
    [],
  );

  const cutLines = useMemo(() => {
    const all = (raw?.cuts ?? []).map((c) => polylineSegments(unpackF4(c.points), c.closed));
    const out = new Float32Array(all.reduce((n, a) => n + a.length, 0));
    let at = 0;
    for (const a of all) {
      out.set(a, at);
      at += a.length;
    }
    return out;
  }, [raw]);
  const outline = useMemo(() => {
    if (fitted && tool.section) return drawnPieces(fitted, tool.section.left);
    return (sketch?.entities ?? []).map((e) => ({ kind: e.kind, path: e.path, on: true }));
  }, [fitted, tool.section, sketch]);
  const ghost = useMemo(() => {
    if (!sketch || !tool.extrude) return new Float32Array();
    const d = roughLength(tool.extrude.distance, unit);
    if (!Number.isFinite(d)) return new Float32Array();
    const lifts = tool.extrude.symmetric ? [-d / 2, d / 2] : [d];
    const lines: number[] = [];
    for (const e of sketch.entities) {
      const moved = lifts.map((l) =>
        e.path.map((p) => p.map((x, k) => x + l * sketch.normal[k]!) as [number, number, number]),
      );
      for (const path of moved) lines.push(...segmentsOf(path));
      lines.push(...(tool.extrude.symmetric ? moved[0]![0]! : e.path[0]!), ...moved[moved.length - 1]![0]!);
    }
    return new Float32Array(lines);
  }, [sketch, tool.extrude, unit]);

  const draft = tool.section;
  const offset = draft ? roughLength(draft.offset, unit) : Number.NaN;
  const reach = tool.extrude ? roughLength(tool.extrude.distance, unit) : Number.NaN;
  const onFrame = () => {
    afterFrame.current();
    if (probeLabel.current && look.probe && host.current) {
      const p = project(look.probe.point);
      const box = host.current.getBoundingClientRect();
      probeLabel.current.style.transform = `translate(${p.x - box.left + 10}px, ${p.y - box.top - 34}px)`;
    }
  };
  useEffect(onFrame, [look.probe]);
  const regionFacets = facets ?? (tool.section || tool.step ? chosen : null);

  return (
    <div className="view" ref={host} data-coloured={colours ? "yes" : "no"}>
      <Stage onFrame={onFrame}>
        {scanKey && (
          <ScanMesh
            url={`/api/jobs/${job.id}/products/${scanKey}/view`}
            palette={palette}
            opacity={colours ? 1 : look.scanOpacity}
            edges={look.facetEdges}
            colours={colours}
            onReady={ready}
          />
        )}
        {bodies.map((b) => (
          <BodyMesh
            key={b.id}
            url={`/api/jobs/${job.id}/products/${b.key}/view`}
            palette={palette}
            opacity={look.bodyOpacity}
            behind={colours !== null}
          />
        ))}
        {scan && regionFacets && (
          <RegionOverlay scan={scan} facets={regionFacets} colour={palette.active} opacity={facets ? 0.62 : 0.28} />
        )}
        {draft && <FatLines segments={cutLines} colour={palette.active} width={1.4} opacity={fitted ? 0.35 : 1} />}
        {outline.length > 0 && <OutlineLines pieces={outline} palette={palette} tick={size * 0.006} />}
        {ghost.length > 0 && <FatLines segments={ghost} colour={palette.active} width={1.4} opacity={0.8} />}
        {draft && Number.isFinite(offset) && (
          <Handle
            origin={draft.origin}
            direction={draft.normal}
            at={offset}
            colour={palette.active}
            onDrag={(mm) => tool.setSection({ offset: typed(Math.round(mm * 20) / 20, unit), left: [] })}
            onRelease={() => undefined}
          />
        )}
        {tool.extrude && sketch && (
          <Handle
            origin={sketch.centre}
            direction={sketch.normal}
            at={Number.isFinite(reach) ? reach : 0}
            colour={palette.active}
            onDrag={(mm) => tool.setExtrude({ distance: typed(Math.round(mm * 10) / 10, unit) })}
            onRelease={() => undefined}
          />
        )}
      </Stage>
      {!scanKey && <div className="view-note">preparing the scan …</div>}
      {picks.seeds.length > 0 && (
        <CardHost anchor={picks.anchor} onFrame={afterFrame}>
          <SelectionCard grown={grown} problem={problem} onKeep={onKeepRegion} onSection={onSection} />
        </CardHost>
      )}
      {look.coloured && colours && result?.fit && (
        <Legend acceptance={result.fit.figures.acceptance} unit={unit} palette={palette} />
      )}
      {look.coloured && look.probe && (
        <div ref={probeLabel} className="probe figures" role="status" aria-label="Deviation here">
          {signed(look.probe.deviation, unit, 1)}
        </div>
      )}
      {look.coloured && !look.probe && colours && (
        <div className="view-note low">Click the surface to read its deviation.</div>
      )}
      {draft && fitted && (
        <div className="view-note low">
          Click a piece to leave it out or take it again, with Shift its whole loop · plane at{" "}
          {signed(fitted.offset_mm, unit)}
        </div>
      )}
      <ViewBar hasBody={bodies.length > 0} onHome={() => scan && home(scan)} />
    </div>
  );
}
