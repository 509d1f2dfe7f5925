/** What a line to the pointer would have to do with what is there: level, upright, parallel, square, touching. No React. */
import { at, endsOf, gap, type Kept, type Shown, type XY } from "./drawing";
import type { Snap } from "./snap";

interface Asked {
  pointer: XY;
  from: XY;
  within: number;
  shown: Shown;
  /** Curves that the line begins on. */
  on: readonly string[];
}

/** The relation that nearly holds; level and upright before all others, since they need nothing else. */
export function directed({ pointer, from, within, shown, on }: Asked): Snap | null {
  if (gap(pointer, from) < 2 * within) return null;
  const level = levelWith(pointer, from, within);
  if (level) return level;
  const rows = [...alongLines(shown.drawing, pointer, from), ...touches(shown.drawing, pointer, from, on)];
  const best = rows.filter((r) => gap(r.at, pointer) <= within).sort((a, b) => gap(a.at, pointer) - gap(b.at, pointer));
  return best[0] ?? null;
}

function levelWith(p: XY, from: XY, within: number): Snap | null {
  const [dx, dy] = [p[0] - from[0], p[1] - from[1]];
  if (Math.abs(dy) <= within) return { at: [p[0], from[1]], said: "level", relation: { kind: "horizontal" } };
  if (Math.abs(dx) <= within) return { at: [from[0], p[1]], said: "upright", relation: { kind: "vertical" } };
  return null;
}

/** The foot of the pointer on the line from a place along a way. */
function footAlong(p: XY, from: XY, [x, y]: XY): XY {
  const t = ((p[0] - from[0]) * x + (p[1] - from[1]) * y) / (x * x + y * y);
  return [from[0] + t * x, from[1] + t * y];
}

function alongLines(kept: Kept, p: XY, from: XY): Snap[] {
  return Object.entries(kept.entities ?? {}).flatMap(([id, e]): Snap[] => {
    const [a, b] = e.kind === "line" ? endsOf(kept, id).map((end) => at(kept, end)) : [];
    if (!a || !b || gap(a, b) < 1e-6) return [];
    const way: XY = [b[0] - a[0], b[1] - a[1]];
    return [
      { at: footAlong(p, from, way), said: `parallel to ${id}`, relation: { kind: "parallel", to: id } },
      {
        at: footAlong(p, from, [-way[1], way[0]]),
        said: `square to ${id}`,
        relation: { kind: "perpendicular", to: id },
      },
    ];
  });
}

function touches(kept: Kept, p: XY, from: XY, on: readonly string[]): Snap[] {
  return Object.entries(kept.entities ?? {}).flatMap(([id, e]): Snap[] => {
    if (e.kind !== "circle" && e.kind !== "arc") return [];
    const m = at(kept, e.centre);
    const r = m ? radiusOf(kept, id) : 0;
    if (!m || r < 1e-6) return [];
    const relation = { kind: "tangent" as const, to: id };
    const away: XY = [from[0] - m[0], from[1] - m[1]];
    const far = Math.hypot(...away);
    if (on.includes(id) || Math.abs(far - r) < 1e-6)
      return [{ at: footAlong(p, from, [-away[1], away[0]]), said: `touching ${id}`, relation }];
    if (far <= r) return [];
    // Where lines from outside touch a circle: cos of the angle at its centre is r over the distance.
    const turn = Math.acos(r / far);
    const base = Math.atan2(away[1], away[0]);
    return [base + turn, base - turn].map((a) => ({
      at: [m[0] + r * Math.cos(a), m[1] + r * Math.sin(a)] as XY,
      said: `touching ${id}`,
      on: [id],
      relation,
    }));
  });
}

function radiusOf(kept: Kept, id: string): number {
  const e = kept.entities?.[id];
  if (e?.kind === "circle") return e.radius;
  const [m, a] = e?.kind === "arc" ? [at(kept, e.centre), at(kept, e.from)] : [null, null];
  return m && a ? gap(m, a) : 0;
}
