/** Sheets of files that lie under a drawing. No React. */
import type { Kept, Sheet, XY } from "./drawing";
import { toScreen } from "./drawing";
import type { Underlay } from "./snap";

export type UnderSheet = NonNullable<Kept["under"]>[number];

/** The same with the lines of sheets, to be snapped to. */
export function withSheets(under: Underlay, sheets: readonly UnderSheet[]): Underlay {
  const lines = sheets.flatMap((s) => (s.lines ?? []) as XY[][]).filter((l) => l.length > 1);
  if (!lines.length) return under;
  return {
    paths: [...under.paths, ...lines],
    ends: [...under.ends, ...lines.flatMap((l) => [l[0]!, l.at(-1)!])],
  };
}

/** An SVG transform that lays words on the plane: at a place, turned by degrees, a millimetre a unit. */
export function layWords(sheet: Sheet, at: XY, turn: number): string {
  const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  const way = (x: number, y: number) => [sheet.a * x + sheet.c * y, sheet.b * x + sheet.d * y];
  const along = way(c, s);
  const down = way(s, -c);
  return `matrix(${[...along, ...down, ...toScreen(sheet, at)].map((n) => n.toFixed(4)).join(" ")})`;
}
