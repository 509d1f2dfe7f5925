/** Where labels stand beside their places, so that none covers another or leaves the view. No React. */

/** A place in the view with the size of its label, pixels. */
export interface Anchor {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** The label's upper left corner. */
export interface Placed {
  x: number;
  y: number;
}

interface Box extends Placed {
  width: number;
  height: number;
}

const GAP = 8;
const RING = 22;
const RINGS = 8;
const BORDER = 4;
/** Directions in the order in which they read best: right, left, then slanted, above, below. */
const WAYS: [number, number][] = [[1, 0], [-1, 0], [1, -1], [1, 1], [-1, -1], [-1, 1], [0, -1], [0, 1]]; // biome-ignore format: one row

const meet = (a: Box, b: Box): boolean =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

/** All places for a label: near ones first. */
function* spots(a: Anchor): Generator<Box> {
  for (let ring = 0; ring < RINGS; ring++)
    for (const [dx, dy] of WAYS) {
      const away = GAP + ring * RING;
      yield {
        x: a.x + (dx > 0 ? away : dx < 0 ? -away - a.width : -a.width / 2),
        y: a.y - a.height / 2 + dy * (a.height / 2 + away * (dx === 0 ? 1 : 0.7)),
        width: a.width,
        height: a.height,
      };
    }
}

/**
 * One after another, each at the nearest free spot; null for a label that finds none: it is folded away. Greedy: good enough for some
 * dozens of labels, and a label stays where it is while others further down the list move.
 *
 * taken: boxes that stand in the view already, such as its bar.
 */
export function laidOut(
  anchors: readonly (Anchor | null)[],
  view: { width: number; height: number },
  taken: readonly Box[] = [],
): (Placed | null)[] {
  const boxes: Box[] = [...taken];
  // A label may cover the place of none: what it speaks of has to be seen.
  const dots = anchors.flatMap((a) => (a ? [{ x: a.x - 4, y: a.y - 4, width: 8, height: 8 }] : []));
  return anchors.map((a) => {
    if (!a) return null;
    for (const spot of spots(a)) {
      const inside =
        spot.x >= BORDER &&
        spot.y >= BORDER &&
        spot.x + spot.width <= view.width - BORDER &&
        spot.y + spot.height <= view.height - BORDER;
      if (!inside || boxes.some((b) => meet(b, spot)) || dots.some((d) => meet(d, spot))) continue;
      boxes.push(spot);
      return { x: spot.x, y: spot.y };
    }
    return null;
  });
}

/** The end of a label's leader: the point of its box nearest to its place. */
export function leaderEnd(a: Anchor, at: Placed): Placed {
  const clamp = (v: number, low: number, high: number) => Math.min(Math.max(v, low), high);
  return { x: clamp(a.x, at.x, at.x + a.width), y: clamp(a.y, at.y, at.y + a.height) };
}
