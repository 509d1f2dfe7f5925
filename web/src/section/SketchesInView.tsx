import { useMemo } from "react";
import { useBench } from "../job/context";
import { useSketch } from "../steps/useSketch";
import { OutlineLines } from "../view/OutlineLines";
import { useDrawn } from "../view/useThings";

function SketchLines({ id, size }: { id: string; size: number }) {
  const { palette } = useBench();
  const sketch = useSketch(id);
  const pieces = useMemo(
    () => (sketch?.entities ?? []).map((e) => ({ kind: e.kind, path: e.path, on: true })),
    [sketch],
  );
  return pieces.length > 0 ? <OutlineLines pieces={pieces} palette={palette} tick={size * 0.004} /> : null;
}

/** Sketches of the job that nothing was made of yet, and those that somebody wants to see; the open one is drawn by its sheet. */
export function SketchesInView({ size, open }: { size: number; open: string | null }) {
  const drawn = useDrawn("sketch");
  return drawn.filter((id) => id !== open).map((id) => <SketchLines key={id} id={id} size={size} />);
}
