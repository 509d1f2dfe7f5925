/** What lies wholly in a box on the plane. No React. */
import { isCurve, type Shown, type XY } from "./drawing";

export function inBox(shown: Shown, a: XY, b: XY): { entities: string[]; profiles: string[] } {
  const [low, high] = [0, 1].map((k) => [Math.min(a[k]!, b[k]!), Math.max(a[k]!, b[k]!)]) as [XY, XY];
  const inside = ([x, y]: readonly number[]) => x! >= low[0] && x! <= low[1] && y! >= high[0] && y! <= high[1];
  const curves = Object.entries(shown.paths).filter(([id, path]) => isCurve(shown.drawing, id) && path.every(inside));
  const alone = Object.entries(shown.drawing.entities ?? {}).filter(([, e]) => e.kind === "point" && inside(e.at));
  return {
    entities: (curves.length ? curves : alone).map(([id]) => id),
    profiles: shown.regions.filter((r) => r.rings[0]?.every(inside)).map((r) => r.name),
  };
}
