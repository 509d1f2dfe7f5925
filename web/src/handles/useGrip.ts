import { useEffect, useRef } from "react";
import type { Vec3 } from "../api/build";
import { project, stage } from "../view/stage";
import { atRest, useDragging } from "./dragging";

const REACH_PX = 20;

interface Grip {
  /** Places in space that it can be taken by. */
  places: () => Vec3[];
  /** The value that the pointer is at; none where that cannot be told. */
  measure: (x: number, y: number) => number | null;
  /** The value it stands at. */
  at: number;
  onDrag: (value: number) => void;
  onRelease: () => void;
}

/** A grip that catches the pointer before the camera does. Letting go of it keeps the value, unless one is being typed. */
export function useGrip(grip: Grip) {
  const now = useRef(grip);
  now.current = grip;
  useEffect(() => {
    const canvas = stage.now?.canvas;
    if (!canvas) return;
    let off: number | null = null;
    const down = (e: PointerEvent) => {
      const near = (p: Vec3) => {
        const q = project(p);
        return Math.hypot(q.x - e.clientX, q.y - e.clientY) < REACH_PX;
      };
      if (e.button !== 0 || !now.current.places().some(near)) return;
      const start = now.current.measure(e.clientX, e.clientY);
      if (start === null) return;
      off = start - now.current.at;
      canvas.setPointerCapture(e.pointerId);
      canvas.dataset.grabbed = "1";
      e.stopImmediatePropagation();
    };
    const move = (e: PointerEvent) => {
      if (off === null) return;
      e.stopImmediatePropagation();
      const { typing, set } = useDragging.getState();
      if (typing !== null) return;
      set({ at: { x: e.clientX, y: e.clientY } });
      const value = now.current.measure(e.clientX, e.clientY);
      if (value !== null) now.current.onDrag(value - off);
    };
    const up = (e: PointerEvent) => {
      if (off === null) return;
      off = null;
      delete canvas.dataset.grabbed;
      e.stopImmediatePropagation();
      const { typing, set } = useDragging.getState();
      if (typing !== null) return; // Enter takes it, Escape leaves it
      set(atRest);
      now.current.onRelease();
    };
    const host = canvas.parentElement ?? canvas;
    host.addEventListener("pointerdown", down, { capture: true });
    host.addEventListener("pointermove", move, { capture: true });
    host.addEventListener("pointerup", up, { capture: true });
    return () => {
      host.removeEventListener("pointerdown", down, { capture: true });
      host.removeEventListener("pointermove", move, { capture: true });
      host.removeEventListener("pointerup", up, { capture: true });
    };
  }, []);
}
