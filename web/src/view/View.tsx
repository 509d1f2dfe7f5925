import { useEffect, useRef } from "react";
import { Actions } from "../actions/Actions";
import type { SectionOut } from "../api/client";
import { SectionBar } from "../clip/SectionBar";
import { SectionViewInView } from "../clip/SectionViewInView";
import { usePlaces } from "../construct/usePlaces";
import { DragReading } from "../handles/DragReading";
import { Handles } from "../handles/Handles";
import { useBench } from "../job/context";
import { Cards } from "../pick/Cards";
import { LassoLayer } from "../pick/LassoLayer";
import { OfferAtPointer } from "../pick/OfferAtPointer";
import { OfferedInView } from "../pick/OfferedInView";
import { watchClicks } from "../pick/pointer";
import { useSelecting } from "../pick/selecting";
import { UnderPointer } from "../pick/UnderPointer";
import { useClicks } from "../pick/useClicks";
import { useHoverParts } from "../pick/useHoverParts";
import { KeptRegions } from "../regions/KeptRegions";
import { OutlineInView } from "../section/OutlineInView";
import { SketchesInView } from "../section/SketchesInView";
import { useTool } from "../sheets/tool";
import { DrawBar } from "../sketch/DrawBar";
import { DrawingLayer } from "../sketch/DrawingLayer";
import { useOpenSketch } from "../sketch/useDrawing";
import { useSheet } from "../sketch/useSheet";
import { useAppearance } from "./appearance";
import { Bodies } from "./Bodies";
import { FacetMarks } from "./FacetMarks";
import { Legends } from "./Legends";
import { Locator } from "./Locator";
import { MovedMesh } from "./MovedMesh";
import { OriginMark } from "./OriginMark";
import { PinLabels } from "./PinLabels";
import { PlaceShapes } from "./PlaceShapes";
import { ProbeHere } from "./ProbeHere";
import { usePointed } from "./pointed";
import { reducedOf } from "./reduced";
import { Scans } from "./Scans";
import { SecondCamera, SecondFrame } from "./SecondView";
import { Stage } from "./Stage";
import { useDeviation } from "./useDeviation";
import { useHome } from "./useHome";
import { ViewBar } from "./ViewBar";
import { ViewNotes } from "./ViewNotes";
import { WorldFrame } from "./WorldFrame";

interface Props {
  onMove: (direction: "undo" | "redo") => void;
  raw: SectionOut | undefined;
  fitted: SectionOut | undefined;
}

/** Scan and bodies together, what is marked on them, and what is said over them. */
export function View({ raw, fitted, onMove }: Props) {
  const { job, palette, scanKey } = useBench();
  const { marked, moved } = usePointed();
  const coloured = useAppearance((s) => s.coloured);
  const step = useTool((s) => s.step);
  const by = useSelecting((s) => s.by);
  const constructed = usePlaces();
  const colours = useDeviation();
  const { scan, size, home, scanReady, bodyReady } = useHome();
  const second = useAppearance((s) => s.second !== null);
  const host = useRef<HTMLDivElement>(null);
  const cardFrame = useRef<() => void>(() => undefined);
  const pinFrame = useRef<() => void>(() => undefined);
  const sheetFrame = useRef<() => void>(() => undefined);
  const sketch = useOpenSketch();
  const frame = sketch?.frame ?? null;
  useSheet(frame, sheetFrame);
  const originFrame = useRef<() => void>(() => undefined);
  const probeFrame = useRef<() => void>(() => undefined);
  useHoverParts(host);
  const click = useClicks(fitted);
  const now = useRef(click);
  now.current = click;
  useEffect(() => (host.current ? watchClicks(host.current, (c) => now.current(c)) : undefined), []);
  const onFrame = () => {
    cardFrame.current();
    pinFrame.current();
    probeFrame.current();
    originFrame.current();
    sheetFrame.current();
  };
  return (
    <div className="view" ref={host} data-coloured={colours ? "yes" : "no"}>
      <Stage onFrame={onFrame}>
        <Scans colours={colours} onReady={scanReady} />
        {moved ? (
          <MovedMesh url={moved.url} still={job.recipe.acceptance_mm / 4} palette={palette} />
        ) : (
          <Bodies coloured={colours !== null} onReady={bodyReady} />
        )}
        <WorldFrame size={size * 0.16} palette={palette} />
        <PlaceShapes {...constructed} chosen={step} size={size} palette={palette} />
        {marked && (
          <Locator point={marked.point} radius={Math.max(marked.size * 0.7, size * 0.02)} colour={palette.active} />
        )}
        {scan && <KeptRegions scan={scan} />}
        {scan && <FacetMarks scan={scan} />}
        <SketchesInView size={size} open={step} />
        <OutlineInView raw={raw} fitted={fitted} size={size} />
        <Handles />
        <OfferedInView />
        <SectionViewInView ready={scan !== null} />
        {second && <SecondCamera />}
      </Stage>
      {by !== "click" && <LassoLayer />}
      <UnderPointer host={host} />
      <ViewNotes fitted={fitted} colours={colours !== null} />
      <DragReading />
      <OfferAtPointer />
      <Cards onFrame={cardFrame} />
      {coloured && <ProbeHere onFrame={probeFrame} />}
      {scanKey && <PinLabels gaps={fitted?.gaps ?? []} coloured={coloured && colours !== null} onFrame={pinFrame} />}
      <OriginMark onFrame={originFrame} />
      <SectionBar />
      <SecondFrame />
      <Legends colours={colours !== null} />
      <Actions onHome={home} onMove={onMove} />
      {sketch && frame && <DrawingLayer host={host} step={sketch.step} frame={frame} />}
      {sketch && frame ? (
        <DrawBar step={sketch.step} frame={frame} />
      ) : (
        <ViewBar onHome={home} reduced={scan && reducedOf(scan.surface)} />
      )}
    </div>
  );
}
