import { memo } from "react";
import { pointsOf, type Sheet, type Shown } from "./drawing";
import { chipPlaces, demandsOf } from "./places";
import { RELATIONS, type RelationKind } from "./relations";
import { useHandOf } from "./store";
import type { Do } from "./stroke";

const isPiece = (shown: Shown, id: string) => (shown.drawing.entities?.[id]?.kind ?? "point") !== "point";
const MOST = 3; // chosen pieces whose relations are all shown

/** What is asked of what is chosen or under the pointer, as chips that can be chosen and taken away. */
export const Chips = memo(function Chips({
  shown,
  sheet,
  torn,
  act,
}: {
  shown: Shown;
  sheet: Sheet;
  torn: ReadonlySet<string>;
  act: Do;
}) {
  const { chosen, over, tool, set } = useHandOf("chosen", "over", "tool", "set");
  if (tool) return null;
  const pieces = chosen.filter((id) => isPiece(shown, id));
  // Of many pieces only what holds the one that is pointed at can be told apart.
  const few = pieces.length > MOST ? chosen.filter((id) => id.startsWith("c:")) : chosen;
  const seen = [...few, ...(over ? [over] : [])];
  const ids = [...new Set(seen.flatMap((id) => [id, ...pointsOf(shown.drawing, id)]))];
  const conflicts = [...torn].filter((d) => d.startsWith("c:"));
  const chips = demandsOf(shown.drawing, [...ids, ...conflicts]);
  const places = chipPlaces(shown, sheet, chips);
  return (
    <>
      {chips.map((c, k) => {
        const [x, y] = places[k]!;
        const word = RELATIONS[c.kind as RelationKind].word;
        return (
          <span
            key={c.id}
            className={`hold-chip ${chosen.includes(c.id) ? "chosen" : ""} ${torn.has(c.id) ? "torn" : ""}`}
            style={{ transform: `translate(${x.toFixed(0)}px, ${y.toFixed(0)}px) translate(-50%, -50%)` }}
          >
            <button type="button" title={`${word}: ${c.of.join(", ")}`} onClick={() => set({ chosen: [c.id] })}>
              {word}
            </button>
            <button
              type="button"
              aria-label={`Take away ${word} of ${c.of.join(", ")}`}
              onClick={() => void act([{ act: "release", demands: [c.id] }])}
            >
              ×
            </button>
          </span>
        );
      })}
    </>
  );
});
