/** What a click in the view means. No React: the view passes in what it knows. */
import type { Vec3 } from "../api/build";
import { project } from "../view/stage";

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

function segmentGap(x: number, y: number, a: { x: number; y: number }, b: { x: number; y: number }): number {
  const dx = b.x - a.x;
  const dy = b.y - a.y;
  const t = Math.max(0, Math.min(1, ((x - a.x) * dx + (y - a.y) * dy) / (dx * dx + dy * dy || 1)));
  return Math.hypot(a.x + t * dx - x, a.y + t * dy - y);
}

/** The path nearest to the pointer on screen, if it is near enough to be meant. */
export function nearestPath(x: number, y: number, paths: readonly Vec3[][]): number | null {
  let best = PIECE_PX;
  let found: number | null = null;
  paths.forEach((path, k) => {
    const flat = path.map(project);
    for (let i = 1; i < flat.length; i++) {
      const gap = segmentGap(x, y, flat[i - 1]!, flat[i]!);
      if (gap < best) {
        best = gap;
        found = k;
      }
    }
  });
  return found;
}
