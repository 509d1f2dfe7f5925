import { useMemo } from "react";
import type { SectionOut } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { useHand } from "../sketch/store";
import { useSketch } from "../steps/useSketch";
import { roughLength } from "../units";
import { unpackF4 } from "../view/buffers";
import { FatLines } from "../view/FatLines";
import { OutlineLines } from "../view/OutlineLines";
import { polylineSegments } from "../view/paths";
import { SectionInView } from "./SectionInView";
import { drawnPieces, leftOut } from "./taken";

interface Props {
  raw: SectionOut | undefined;
  fitted: SectionOut | undefined;
  /** How large what is on the bench is, mm. */
  size: number;
}

/** The section that is being cut, with its outline; or the sketch of the step that is open. */
export function OutlineInView({ raw, fitted, size }: Props) {
  const { unit, palette } = useBench();
  const { section, draft, step } = useTool();
  const drafted = (draft?.params.sketch as { id: string } | undefined)?.id;
  // A drawing that is open is drawn by its own layer.
  const drawing = useHand((s) => s.sheet !== null);
  const sketch = useSketch(drafted ?? (drawing ? null : step));
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
    if (fitted && section) return drawnPieces(fitted, leftOut(fitted, section));
    return (sketch?.entities ?? []).map((e) => ({ kind: e.kind, path: e.path, on: true }));
  }, [fitted, section, sketch]);
  return (
    <>
      {section && <FatLines segments={cutLines} colour={palette.active} width={1.4} opacity={fitted ? 0.35 : 1} />}
      {outline.length > 0 && <OutlineLines pieces={outline} palette={palette} tick={size * 0.006} />}
      {section && (
        <SectionInView
          draft={section}
          offset={roughLength(section.offset, unit)}
          size={size}
          palette={palette}
          cut={cutLines}
        />
      )}
    </>
  );
}
