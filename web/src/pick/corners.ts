/** Corners of bodies under a place on screen. No React. */
import type { Vec3 } from "../api/build";
import type { CornerPick } from "./picks";

const NEAR_PX = 12;

export function cornerRef({ body, corner }: CornerPick) {
  return { body, vertex: corner.name, place: corner.centre };
}

/** The named corner nearest to the pointer, if one is near enough; `seen` says where on the page a place is. */
export function nearestCorner(
  x: number,
  y: number,
  corners: readonly CornerPick[],
  seen: (p: Vec3) => { x: number; y: number; visible: boolean },
): CornerPick | null {
  let best: CornerPick | null = null;
  let least = NEAR_PX;
  for (const pick of corners) {
    if (!pick.corner.name || pick.corner.name.endsWith("?")) continue;
    const at = seen(pick.corner.centre);
    const away = Math.hypot(at.x - x, at.y - y);
    if (at.visible && away < least) {
      least = away;
      best = pick;
    }
  }
  return best;
}
