import { Button } from "antd";
import type { Shown } from "./drawing";
import { useHandOf } from "./store";
import type { Do } from "./stroke";

/** Lines and curves that were brought in and that nothing of the drawing's own lies on yet: those that are chosen, else all of them. */
export function broughtIn({ drawing, paths }: Shown, chosen: readonly string[]): string[] {
  const entities = drawing.entities ?? {};
  const curves = Object.keys(entities).filter((id) => entities[id]!.kind !== "point");
  const own = new Set(curves.filter((id) => !entities[id]!.linked).map((id) => traceOf(paths[id])));
  const all = curves.filter((id) => entities[id]!.linked && !own.has(traceOf(paths[id])));
  const meant = all.filter((id) => chosen.includes(id));
  return meant.length ? meant : all;
}

/** The same for curves that are drawn in one place, whichever way they run. */
function traceOf(path: readonly (readonly number[])[] | undefined): string {
  if (!path?.length) return "";
  const said = [path[0]!, path[Math.floor(path.length / 2)]!, path[Math.floor((path.length - 1) / 2)]!, path.at(-1)!];
  return said
    .map((p) => p.map((x) => (Math.round(x * 100) / 100 || 0).toFixed(2)).join())
    .sort()
    .join(" ");
}

/** What was brought in becomes pieces of the drawing's own, with the relations that hold and the sizes that say all of it. */
export function RedrawIt({ shown, act }: { shown: Shown; act: Do }) {
  const { chosen, set } = useHandOf("chosen", "set");
  const of = broughtIn(shown, chosen);
  if (!of.length) return null;
  const redraw = async () => {
    if (await act([{ act: "redraw", of }])) set({ chosen: [] });
  };
  return (
    <p className="small redraw">
      <Button
        size="small"
        title="pieces of the drawing, with the relations that hold and with sizes, so that nothing can move"
        onClick={() => void redraw()}
      >
        Redraw {of.length === 1 ? "it" : `the ${of.length}`} with sizes
      </Button>{" "}
      <span className="quiet">read off the solid, in inches where it was made in them</span>
    </p>
  );
}
