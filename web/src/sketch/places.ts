/** Where chips and sizes stand on the drawing. No React. */
import { at, isCurve, type Kept, middleOf, type Sheet, type Shown, toScreen, type XY } from "./drawing";

const OFF = 20; // px from what they speak of

/** Pixel place of an entity's middle, and the way across it. */
function anchor(shown: Shown, sheet: Sheet, id: string): { p: XY; across: XY } {
  const kept = shown.drawing;
  const point = at(kept, id);
  if (point) return { p: toScreen(sheet, point), across: [0.7, -0.7] };
  const path = shown.paths[id] ?? [];
  const p = toScreen(sheet, middleOf(path));
  const kind = kept.entities?.[id]?.kind;
  if (kind === "circle" || kind === "ellipse") {
    const q = toScreen(sheet, path[Math.floor(path.length / 8)] ?? path[0] ?? [0, 0]);
    return { p: q, across: [0.7, -0.7] };
  }
  const [a, b] = [toScreen(sheet, path[0] ?? [0, 0]), toScreen(sheet, path.at(-1) ?? [0, 0])];
  const long = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  return { p, across: [(b[1] - a[1]) / long, -(b[0] - a[0]) / long] };
}

/** The middle between all that a demand speaks of, a little beside it; `rank` keeps several on one entity apart; off: px. */
export function placeOf(shown: Shown, sheet: Sheet, of: readonly string[], rank: number, off = OFF): XY {
  const all = of.filter((id) => shown.drawing.entities?.[id]).map((id) => anchor(shown, sheet, id));
  const first = all[0];
  if (!first) return [0, 0];
  const n = all.length;
  const p: XY = [all.reduce((s, a) => s + a.p[0], 0) / n, all.reduce((s, a) => s + a.p[1], 0) / n];
  const away = n > 1 && isCurve(shown.drawing, of[0]!) ? 0.4 : 1;
  return [p[0] + first.across[0] * off * away, p[1] + first.across[1] * off * away + rank * 20];
}

const [WIDE, HIGH] = [64, 20]; // px that a size takes

/** Where sizes stand so that none covers another: those that are asked for first; others give way until one looks closer. */
export function sizePlaces(shown: Shown, sheet: Sheet, first: readonly string[]): Map<number, XY> {
  const used: Record<string, number> = {};
  const rows = (shown.drawing.sizes ?? []).map((s, k) => {
    const about = s.of.join(" ");
    used[about] = (used[about] ?? -1) + 1;
    const asked = first.includes(`d:${k}`) || s.of.some((id) => first.includes(id));
    return { k, asked, at: placeOf(shown, sheet, s.of, used[about]!) };
  });
  const kept: typeof rows = [];
  for (const r of [...rows.filter((x) => x.asked), ...rows.filter((x) => !x.asked)])
    if (!kept.some((o) => Math.abs(o.at[0] - r.at[0]) < WIDE && Math.abs(o.at[1] - r.at[1]) < HIGH)) kept.push(r);
  return new Map(kept.map((r) => [r.k, r.at]));
}

const CHIP: XY = [84, 22]; // px that a chip takes

/** Where chips stand so that none covers another: what would goes below. */
export function chipPlaces(shown: Shown, sheet: Sheet, chips: readonly { id: string; of: string[] }[]): XY[] {
  const taken: XY[] = [];
  for (const c of chips) {
    let [x, y] = placeOf(shown, sheet, c.of, 0);
    while (taken.some((o) => Math.abs(o[0] - x) < CHIP[0] && Math.abs(o[1] - y) < CHIP[1])) y += CHIP[1];
    taken.push([x, y]);
  }
  return taken;
}

/** Demands that touch something chosen or pointed at, with their place in the lists. */
export function demandsOf(kept: Kept, ids: readonly string[]): { id: string; kind: string; of: string[] }[] {
  const touched = (of: readonly string[]) => of.some((o) => ids.includes(o));
  return (kept.constraints ?? []).flatMap((c, k) =>
    touched(c.of) || ids.includes(`c:${k}`) ? [{ id: `c:${k}`, kind: c.kind, of: [...c.of] }] : [],
  );
}
