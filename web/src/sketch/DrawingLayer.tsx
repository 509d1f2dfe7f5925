import { type RefObject, useEffect, useMemo } from "react";
import type { Step } from "../api/client";
import { useBench } from "../job/context";
import { AtPointer } from "./AtPointer";
import { BRING_IN } from "./bringIn";
import { Chips } from "./Chips";
import { endsOf, type Frame, toScreen, type XY } from "./drawing";
import { ghostOf, tangentArc } from "./ghost";
import { OfferedLines, OfferedNote } from "./OfferedLines";
import { Regions } from "./Regions";
import { Aim, Axes, Box } from "./SheetMarks";
import { SideMarks } from "./SideMarks";
import { SizeLabels } from "./SizeLabels";
import { pathOf, Strokes } from "./Strokes";
import { useHand } from "./store";
import "./sketch.css";
import { tornOf } from "./torn";
import { UnderLines } from "./UnderLines";
import { UnderPhotos } from "./UnderPhotos";
import { UnderSheets } from "./UnderSheets";
import { withSheets } from "./underSheets";
import { useBox } from "./useBox";
import { useBringIn } from "./useBringIn";
import { useClipboard } from "./useClipboard";
import { useDrawing } from "./useDrawing";
import { useLaid, useLaying } from "./useLaid";
import { usePencil } from "./usePencil";
import { useSketchKeys } from "./useSketchKeys";
import { useTakeOver } from "./useTakeOver";
import { useUnderlay } from "./useUnderlay";
import { Whiskers } from "./Whiskers";

interface Props {
  host: RefObject<HTMLDivElement | null>;
  step: Step;
  frame: Frame;
}

/** The drawing over the view, square to its plane or turned with it. */
export function DrawingLayer({ host, step, frame }: Props) {
  const { job, unit } = useBench();
  const { shown, act } = useDrawing(step);
  const evidence = useUnderlay(frame);
  const over = useTakeOver(step, frame, evidence, act);
  const h = useHand();
  // What was chosen in one drawing means nothing in the next.
  useEffect(() => {
    if (step.id) return () => useHand.getState().leave();
  }, [step.id]);
  const sheets = shown?.drawing.under;
  const under = useMemo(() => withSheets(evidence.under, sheets ?? []), [evidence.under, sheets]);
  const lay = useLaying(step, shown).lay;
  usePencil({ host, shown, under, act, onTakeOver: over.at, onLay: (id, spots) => lay({ id, spots }) });
  const linkable = useBringIn(host, step, frame, act);
  useBox(host, shown);
  useSketchKeys(shown, act);
  useClipboard(shown, act);
  const laid = useLaid(step, shown);
  const torn = useMemo(() => (shown ? tornOf(shown) : new Set<string>()), [shown]);
  const { sheet } = h;
  if (!sheet) return null;
  const ghost = shown ? ghostPath(h, shown) : [];
  return (
    <div
      className="sketch-layer"
      data-tool={h.tool ?? ""}
      data-drawn={shown ? Object.keys(shown.drawing.entities ?? {}).length : -1}
      data-dof={shown?.dof ?? -1}
      data-solved={shown ? String(shown.solved) : ""}
    >
      <svg aria-hidden="true">
        <defs>
          <pattern id="torn" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="3" height="6" className="torn-hatch" />
          </pattern>
        </defs>
        {laid && (
          <UnderPhotos
            job={job.id}
            evidence={job.recipe.evidence}
            laid={laid.pictures}
            sheet={sheet}
            paper={h.paper}
            unit={unit}
          />
        )}
        <UnderLines evidence={evidence} frame={frame} sheet={sheet} />
        <UnderSheets sheets={sheets ?? []} read={h.read} sheet={sheet} />
        <Axes origin={toScreen(sheet, [0, 0])} u={toScreen(sheet, [1, 0])} v={toScreen(sheet, [0, 1])} />
        {shown && <Regions shown={shown} sheet={sheet} profiles={h.profiles} />}
        {shown && (
          <Strokes shown={shown} sheet={sheet} chosen={h.chosen} over={h.over} torn={torn} dragged={h.dragged} />
        )}
        {h.tool === BRING_IN && <OfferedLines offers={linkable.offers} offered={h.offered} sheet={sheet} />}
        {h.fit && <Whiskers fit={h.fit} sheet={sheet} />}
        {shown && <SideMarks shown={shown} sheet={sheet} chosen={h.chosen} />}
        {ghost.length > 1 && <path className="ghost" d={pathOf(sheet, ghost)} />}
        {h.spots.map((s) => {
          const [x, y] = toScreen(sheet, s.at);
          return <rect key={s.at.join()} className="spot" x={x - 3} y={y - 3} width={6} height={6} />;
        })}
        {h.box && <Box corners={h.box} />}
        {h.pointer && h.tool && <Aim at={toScreen(sheet, h.pointer.at)} held={h.pointer.said !== ""} />}
      </svg>
      {h.tool === BRING_IN && <OfferedNote busy={linkable.busy} none={!linkable.offers.length} />}
      {shown && !h.dragged && <SizeLabels shown={shown} sheet={sheet} torn={torn} act={act} />}
      {shown && !h.dragged && <Chips shown={shown} sheet={sheet} torn={torn} act={act} />}
      {shown && <AtPointer shown={shown} sheet={sheet} act={act} />}
    </div>
  );
}

type HandNow = ReturnType<typeof useHand.getState>;

function ghostPath(h: HandNow, shown: NonNullable<ReturnType<typeof useDrawing>["shown"]>): XY[] {
  if (!h.tool || !h.pointer || !h.spots.length) return [];
  const places = [...h.spots.map((s) => s.at), h.pointer.at];
  const last = h.spots.at(-1)!;
  const path = h.after ? shown.paths[h.after] : undefined;
  if (h.tool === "line" && h.bend && path && last.point) {
    const forward = endsOf(shown.drawing, h.after!).at(-1) === last.point;
    const [p, q] = forward ? [path.at(-2)!, path.at(-1)!] : [path[1]!, path[0]!];
    const long = Math.hypot(q[0] - p[0], q[1] - p[1]) || 1;
    return tangentArc(last.at, [(q[0] - p[0]) / long, (q[1] - p[1]) / long], h.pointer.at);
  }
  return ghostOf(h.tool, h.way, places, Number(h.typed.sides) || 6);
}
