import { Button } from "antd";
import type { Kept } from "./drawing";
import { useHandOf } from "./store";
import type { Do } from "./stroke";

/** Lines and curves that were brought in: those that are chosen, else all of them. No React. */
export function broughtIn(kept: Kept, chosen: readonly string[]): string[] {
  const entities = kept.entities ?? {};
  const all = Object.keys(entities).filter((id) => entities[id]!.linked && entities[id]!.kind !== "point");
  const meant = all.filter((id) => chosen.includes(id));
  return meant.length ? meant : all;
}

/** What was brought in becomes pieces of the drawing's own, with the relations that hold and the sizes that say all of it. */
export function RedrawIt({ kept, act }: { kept: Kept; act: Do }) {
  const { chosen, set } = useHandOf("chosen", "set");
  const of = broughtIn(kept, chosen);
  if (!of.length) return null;
  const redraw = async () => {
    if (await act([{ act: "redraw", of }])) set({ chosen: [] });
  };
  return (
    <p className="small redraw">
      <Button
        size="small"
        title="own pieces on what was brought in, with its relations, and sizes until nothing can move"
        onClick={() => void redraw()}
      >
        Redraw {of.length === 1 ? "it" : `the ${of.length}`} with sizes
      </Button>{" "}
      <span className="quiet">read off the solid, in inches where it was made in them</span>
    </p>
  );
}
