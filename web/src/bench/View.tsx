import { Button } from "antd";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Box3, Vector3 } from "three";
import type { SectionOut } from "../api/client";
import { usePlaces } from "../construct/usePlaces";
import { Handles } from "../handles/Handles";
import { EdgeCard } from "../pick/EdgeCard";
import { useChosenEdges } from "../pick/useChosenEdges";
import { useHoverEdges } from "../pick/useHoverEdges";
import { facetsOf, useRegions } from "../regions/store";
import { SectionInView } from "../section/SectionInView";
import { drawnPieces } from "../section/taken";
import { roughLength, signed } from "../units";
import { BodyMesh, PassingBody } from "../view/BodyMesh";
import { unpackF4 } from "../view/buffers";
import { FatLines } from "../view/FatLines";
import type { ScanGeometry } from "../view/geometry";
import { Locator } from "../view/Locator";
import { MovedMesh } from "../view/MovedMesh";
import { OutlineLines } from "../view/OutlineLines";
import { PlaceShapes } from "../view/PlaceShapes";
import { polylineSegments } from "../view/paths";
import { rawPoint } from "../view/pose";
import { RegionOverlay } from "../view/RegionOverlay";
import { RegionsSkin } from "../view/RegionsSkin";
import { ResidualSkin } from "../view/ResidualSkin";
import { reducedOf } from "../view/reduced";
import { ScanMesh } from "../view/ScanMesh";
import { Stage } from "../view/Stage";
import { bodiesBox, fitView, project, stage } from "../view/stage";
import { WorldFrame } from "../view/WorldFrame";
import { CardHost } from "./CardHost";
import { useBench } from "./context";
import { FaceCard } from "./FaceCard";
import { LassoLayer } from "./LassoLayer";
import { Legend } from "./Legend";
import { NoScan } from "./NoScan";
import { PinLabels } from "./PinLabels";
import { watchClicks } from "./pointer";
import { SelectionCard } from "./SelectionCard";
import { useArmed, useLook, usePicks, useSelecting, useTool } from "./stores";
import { UnderPointer } from "./UnderPointer";
import { useClicks } from "./useClicks";
import { useDeviation } from "./useDeviation";
import { useFaces } from "./useFaces";
import { useGrow } from "./useGrow";
import { useRegion } from "./useRegion";
import { useShownBodies } from "./useShownBodies";
import { useSketch } from "./useSketch";
import { ViewBar } from "./ViewBar";

interface Props {
  raw: SectionOut | undefined;
  fitted: SectionOut | undefined;
  onKeepRegion: () => void;
  onSection: () => void;
}

const noted = () => undefined;

export function View({ raw, fitted, onKeepRegion, onSection }: Props) {
  const { job, unit, palette, scanId, scanKey, pose, edit } = useBench();
  const look = useLook();
  const picks = usePicks();
  const tool = useTool();
  const { grown, facets, problem } = useGrow();
  const chosen = useRegion(tool.section ? tool.section.region : tool.step);
  const selecting = useSelecting();
  const { places, measures } = usePlaces();
  const { armed, arm } = useArmed();
  const drafted = (tool.draft?.params.sketch as { id: string } | undefined)?.id;
  const sketch = useSketch(drafted ?? tool.step);
  const colours = useDeviation();
  const [scan, setScan] = useState<ScanGeometry | null>(null);
  /** How large the bodies of a job without a scan are, mm. */
  const [alone, setAlone] = useState(100);
  const host = useRef<HTMLDivElement>(null);
  const afterFrame = useRef<() => void>(() => undefined);
  const probeFrame = useRef<() => void>(() => undefined);
  const probeLabel = useRef<HTMLDivElement>(null);
  const result = job.build.result;
  const bodies = useShownBodies();
  const edgesOf = useChosenEdges(bodies);
  useHoverEdges(host, armed === null || armed.onEdge !== undefined);
  const offeredBody = bodies.find((b) => b.id === look.offered?.body && !b.view);
  const offeredAt = useFaces(offeredBody?.key ?? null).findIndex((f) => f.name === look.offered?.name);
  const size = useMemo(() => {
    const box = scan?.surface.boundingBox;
    return box ? box.max.distanceTo(box.min) : alone;
  }, [scan, alone]);

  const home = useCallback((s: ScanGeometry) => {
    const box = s.surface.boundingBox;
    if (box) fitView(new Box3().copy(box).translate({ x: s.origin[0], y: s.origin[1], z: s.origin[2] } as never));
  }, []);
  const homed = useRef<string | null>(null);
  const bodySeen = useCallback(() => {
    if (scanId) return;
    const box = bodiesBox();
    setAlone(box.getSize(new Vector3()).length());
    if (homed.current === job.id) return;
    fitView(box);
    if (stage.bodies.size >= bodies.length) homed.current = job.id;
  }, [scanId, job.id, bodies.length]);
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

  const click = useClicks(fitted);
  const now = useRef(click);
  now.current = click;
  useEffect(() => (host.current ? watchClicks(host.current, (c) => now.current(c)) : undefined), []);

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
  const draft = tool.section;
  const offset = draft ? roughLength(draft.offset, unit) : Number.NaN;
  const onFrame = () => {
    afterFrame.current();
    probeFrame.current();
    if (probeLabel.current && look.probe && host.current) {
      const p = project(look.probe.point);
      const box = host.current.getBoundingClientRect();
      probeLabel.current.style.transform = `translate(${p.x - box.left + 10}px, ${p.y - box.top - 34}px)`;
    }
  };
  useEffect(onFrame, [look.probe]);
  const pin = async () => {
    const here = look.probe;
    if (!here) return;
    const probe = {
      id: crypto.randomUUID(),
      name: `Probe ${(job.recipe.probes?.length ?? 0) + 1}`,
      scan: scanId,
      facet: here.facet,
      point: rawPoint(pose, here.point),
    };
    if (await edit({ op: "pin-probe", probe })) look.set({ probe: null });
  };
  // Other scans that are still by themselves: a mating part, or what is about to be merged.
  const ghosts = Object.entries(result?.scans ?? {})
    .filter(([e]) => e !== scanId)
    .map(([, key]) => key);
  const regions = useRegions();
  const regionLabels = tool.panel === "regions" && regions.scan === scanKey ? regions.labels : null;
  const { found: foundRegions, hidden: hiddenKinds } = regions;
  const shownRegions = useMemo(
    () => (foundRegions?.regions ?? []).map((r) => ({ kind: r.kind, hidden: hiddenKinds.includes(r.kind) })),
    [foundRegions, hiddenKinds],
  );
  // While facets are painted the region shows as it is, so that what is painted stands out.
  const residuals = tool.section || picks.hand || !tool.step ? null : look.residuals;
  const regionFacets = facets ?? (tool.section || tool.step ? chosen : null);

  return (
    <div className="view" ref={host} data-coloured={colours ? "yes" : "no"}>
      <Stage onFrame={onFrame}>
        {scanKey && (
          <ScanMesh
            url={`/api/jobs/${job.id}/products/${scanKey}/view`}
            palette={palette}
            opacity={look.moved ? 0 : colours ? 1 : look.scanOpacity}
            edges={look.facetEdges}
            colours={!result?.fit || result.fit.scan === scanId ? colours : null}
            // Facets are picked on the scan as it lies, not as a preview lays it.
            laid={armed ? null : (look.laid?.matrix ?? null)}
            onReady={ready}
          />
        )}
        {!look.moved &&
          bodies.map((b) => {
            const look3d = {
              id: b.id,
              bodyKey: b.key,
              palette,
              colour: b.colour,
              opacity: look.opacities[b.id] ?? (b.reference ? Math.min(0.5, look.bodyOpacity) : look.bodyOpacity),
              behind: colours !== null,
              pickable: !look.unpickable.includes(b.id),
              picked: picks.faces.filter((f) => f.key === b.key).map((f) => f.index),
              pickedEdges: edgesOf(b.id, b.key),
              open: b.open,
              offered: b.id === offeredBody?.id && offeredAt >= 0 ? offeredAt : null,
            };
            return b.view ? (
              <PassingBody key={`${b.id}-passing`} view={b.view} {...look3d} passing />
            ) : (
              <BodyMesh key={b.id} url={`/api/jobs/${job.id}/products/${b.key}/view`} onReady={bodySeen} {...look3d} />
            );
          })}
        {regionLabels && scan && (
          <RegionsSkin scan={scan} labels={regionLabels} regions={shownRegions} palette={palette} />
        )}
        {look.moved && <MovedMesh url={look.moved.url} still={job.recipe.acceptance_mm / 4} palette={palette} />}
        <WorldFrame size={size * 0.16} palette={palette} />
        <PlaceShapes places={places} measures={measures} chosen={tool.step} size={size} palette={palette} />
        {look.marked && (
          <Locator
            point={look.marked.point}
            radius={Math.max(look.marked.size * 0.7, size * 0.02)}
            colour={palette.active}
          />
        )}
        {scan && look.marked && look.marked.facets.length > 0 && (
          <RegionOverlay
            scan={scan}
            facets={Uint32Array.from(look.marked.facets)}
            colour={palette.active}
            opacity={0.85}
          />
        )}
        {scanKey &&
          ghosts.map((key) => (
            <ScanMesh
              key={key}
              ghost
              url={`/api/jobs/${job.id}/products/${key}/view`}
              palette={palette}
              opacity={look.moved ? 0 : 0.22}
              edges={false}
              colours={null}
              onReady={noted}
            />
          ))}
        {scan && regionLabels && regions.chosen.length > 0 && (
          <RegionOverlay
            scan={scan}
            facets={facetsOf(regionLabels, regions.chosen)}
            colour={palette.active}
            opacity={0.75}
          />
        )}
        {scan && residuals && <ResidualSkin scan={scan} {...residuals} palette={palette} />}
        {scan && picks.hand && chosen && tool.step && (
          <RegionOverlay scan={scan} facets={chosen} colour={palette.active} opacity={0.28} />
        )}
        {scan && regionFacets && !residuals && (
          <RegionOverlay scan={scan} facets={regionFacets} colour={palette.active} opacity={facets ? 0.62 : 0.28} />
        )}
        {draft && <FatLines segments={cutLines} colour={palette.active} width={1.4} opacity={fitted ? 0.35 : 1} />}
        {outline.length > 0 && <OutlineLines pieces={outline} palette={palette} tick={size * 0.006} />}
        {draft && <SectionInView draft={draft} offset={offset} size={size} palette={palette} />}
        <Handles />
      </Stage>
      {!scanId && bodies.length === 0 && <NoScan />}
      {scanId && !scanKey && <div className="view-note">preparing the scan …</div>}
      {selecting.by !== "click" && <LassoLayer />}
      <UnderPointer host={host} />
      {armed && (
        <div className="view-note armed" role="status">
          {armed.hint}
          <Button size="small" type="link" onClick={() => arm(null)}>
            Never mind
          </Button>
        </div>
      )}
      {picks.faces.length > 0 && (
        <CardHost anchor={picks.anchor} onFrame={afterFrame}>
          <FaceCard />
        </CardHost>
      )}
      {picks.edges.length > 0 && (
        <CardHost anchor={picks.anchor} onFrame={afterFrame}>
          <EdgeCard />
        </CardHost>
      )}
      {(picks.seeds.length > 0 || picks.hand) && (
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
          <Button size="small" type="link" onClick={() => void pin()}>
            Pin
          </Button>
        </div>
      )}
      {scanKey && <PinLabels coloured={look.coloured && colours !== null} onFrame={probeFrame} />}
      {residuals && <Legend acceptance={residuals.still} unit={unit} palette={palette} what="form" />}
      {look.moved && <Legend acceptance={job.recipe.acceptance_mm / 4} unit={unit} palette={palette} what="moved" />}
      {look.coloured && !look.probe && colours && (
        <div className="view-note low">Click the surface to read its deviation.</div>
      )}
      {draft && fitted && (
        <div className="view-note low">
          Click a piece to leave it out or take it again, with Shift its whole loop · plane at{" "}
          {signed(fitted.offset_mm, unit)}
        </div>
      )}
      <ViewBar onHome={() => (scan ? home(scan) : fitView(bodiesBox()))} reduced={scan && reducedOf(scan.surface)} />
    </div>
  );
}
