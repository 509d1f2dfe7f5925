/** What follows when a tool has been given one more place. No React. */
import { type Act, endsOf, isCurve, type Shown } from "./drawing";
import type { Snap } from "./snap";
import { entitiesIn, useHand } from "./store";
import { type Given, toolOf, wayOf } from "./tools";

export type Do = (acts: Act[]) => Promise<Shown | null>;

function given(shown: Shown, spots: Snap[]): Given {
  const h = useHand.getState();
  return {
    spots,
    way: h.way,
    typed: h.typed,
    after: h.after,
    bend: h.bend,
    chosen: entitiesIn(shown, h.chosen),
    shown,
  };
}

let last: Promise<void> = Promise.resolve();

/** One after the other: what was pointed at while an act is under way waits for what comes of it. */
export function inTurn(next: () => Promise<void>): Promise<void> {
  last = last.then(next, next);
  return last;
}

/** Takes one more place; does the act when it was the last that is needed. */
export const place = (spot: Snap, shown: () => Shown, act: Do): Promise<void> =>
  inTurn(() => placed(spot, shown(), act));

async function placed(spot: Snap, shown: Shown, act: Do): Promise<void> {
  const h = useHand.getState();
  const tool = toolOf(h.tool);
  if (!tool) return;
  const spots = [...h.spots, spot];
  if (tool.many || spots.length < wayOf(tool, h.way).words.length) return h.set({ spots, typing: null });
  await finish(spots, shown, act);
}

/** Does what the tool in hand does with these places. */
export async function finish(spots: Snap[], shown: Shown, act: Do): Promise<void> {
  const h = useHand.getState();
  const tool = toolOf(h.tool);
  if (!tool || (tool.many && spots.length < 2)) return;
  const acts = tool.acts(given(shown, spots));
  // What was typed for this piece is not meant for the next; sizes of changes stay.
  h.set({ spots: [], typing: null, ...(tool.group === "draw" ? { typed: {} } : {}) });
  const after = await act(acts);
  if (!after) return;
  if (tool.group === "change") return h.set({ chosen: tool.of ? [...after.chosen] : [] });
  if (tool.id === "line") goOn(spots, after);
}

/** The next line begins where the last one ended, unless the outline has closed. */
function goOn(spots: Snap[], shown: Shown) {
  const h = useHand.getState();
  const line = shown.chosen.findLast((id) => isCurve(shown.drawing, id));
  if (!line || h.tool !== "line") return;
  const ends = endsOf(shown.drawing, line);
  const begun = spots[0]?.point ?? ends[0];
  const end = ends.find((p) => p !== begun) ?? ends[1]!;
  const start = h.chain ?? begun ?? null;
  if (end === start) return h.set({ after: null, chain: null, bend: false });
  const point = shown.drawing.entities?.[end];
  if (point?.kind !== "point") return;
  h.set({ spots: [{ at: [point.at[0], point.at[1]], said: "end", point: end }], after: line, chain: start });
}
