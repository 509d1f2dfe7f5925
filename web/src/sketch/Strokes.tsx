import { memo } from "react";
import { assumedIn, isCurve, type Sheet, type Shown, toScreen, type XY } from "./drawing";

export const pathOf = (sheet: Sheet, path: readonly XY[], closed = false): string =>
  path
    .map((p, i) => {
      const [x, y] = toScreen(sheet, p);
      return `${i ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`;
    })
    .join("") + (closed ? "Z" : "");

interface Props {
  shown: Shown;
  sheet: Sheet;
  chosen: readonly string[];
  over: string | null;
  /** Entities of what contradicts itself. */
  torn: ReadonlySet<string>;
  dragged: { points: Record<string, XY>; paths: Record<string, XY[]> } | null;
}

/** What is drawn: full weight and filled marks where it is settled, light and hollow where it is free; construction in dashes, what is only assumed in dots. */
export const Strokes = memo(function Strokes({ shown, sheet, chosen, over, torn, dragged }: Props) {
  const kept = shown.drawing;
  const entities = kept.entities ?? {};
  const assumed = assumedIn(kept);
  const cls = (id: string) =>
    [
      shown.free[id] ? "free" : "settled",
      chosen.includes(id) ? "chosen" : "",
      over === id ? "over" : "",
      torn.has(id) ? "torn" : "",
      entities[id]?.construction ? "helper" : "",
      entities[id]?.linked ? "linked" : "",
      assumed.has(id) ? "assumed" : "",
    ].join(" ");
  const curves = Object.keys(entities).filter((id) => isCurve(kept, id));
  return (
    <g>
      {curves.map((id) => (
        <path
          key={id}
          data-entity={id}
          className={`stroke ${cls(id)}`}
          d={pathOf(sheet, dragged?.paths[id] ?? shown.paths[id] ?? [])}
        />
      ))}
      {Object.entries(entities).map(([id, e]) => {
        if (e.kind !== "point") return null;
        const [x, y] = toScreen(sheet, dragged?.points[id] ?? [e.at[0], e.at[1]]);
        return (
          <rect key={id} data-entity={id} className={`end-mark ${cls(id)}`} x={x - 3} y={y - 3} width={6} height={6} />
        );
      })}
    </g>
  );
});
