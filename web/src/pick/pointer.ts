/** What a click in the view means. No React: the view passes in what it knows. */
import type { Vec3 } from "../api/build";
import { project } from "../view/stage";
import { nearestOnSegment } from "./edges";

const CLICK_PX = 4;
const PIECE_PX = 9;

export interface Click {
  x: number;
  y: number;
  shift: boolean;
  alt: boolean;
}

/** Calls back for clicks that are no drags, with the main button only. */
export function watchClicks(host: HTMLElement, onClick: (click: Click) => void): () => void {
  let from: { x: number; y: number } | null = null;
  const down = (e: PointerEvent) => {
    from = e.button === 0 && (e.target as HTMLElement).tagName === "CANVAS" ? { x: e.clientX, y: e.clientY } : null;
  };
  const up = (e: PointerEvent) => {
    if (!from || Math.hypot(e.clientX - from.x, e.clientY - from.y) > CLICK_PX) return;
    from = null;
    onClick({ x: e.clientX, y: e.clientY, shift: e.shiftKey, alt: e.altKey });
  };
  host.addEventListener("pointerdown", down);
  host.addEventListener("pointerup", up);
  return () => {
    host.removeEventListener("pointerdown", down);
    host.removeEventListener("pointerup", up);
  };
}

/** Where on a path that is, and which one it is of several. */
interface OnPath {
  path: number;
  at: Vec3;
}

/** The place on a path nearest to the pointer on screen, if it is near enough to be meant. */
export function nearestOnPaths(x: number, y: number, paths: readonly Vec3[][]): OnPath | null {
  let best = PIECE_PX;
  let found: OnPath | null = null;
  paths.forEach((path, k) => {
    const flat = path.map(project);
    for (let i = 1; i < flat.length; i++) {
      const { t, away } = nearestOnSegment(x, y, flat[i - 1]!, flat[i]!);
      if (away >= best) continue;
      best = away;
      const [a, b] = [path[i - 1]!, path[i]!];
      found = { path: k, at: [0, 1, 2].map((c) => a[c]! + t * (b[c]! - a[c]!)) as Vec3 };
    }
  });
  return found;
}

/** The path nearest to the pointer on screen, if it is near enough to be meant. */
export const nearestPath = (x: number, y: number, paths: readonly Vec3[][]): number | null =>
  nearestOnPaths(x, y, paths)?.path ?? null;
