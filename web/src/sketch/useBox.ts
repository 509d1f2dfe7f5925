import { type RefObject, useEffect, useRef } from "react";
import { inBox } from "./box";
import { type Shown, toPlane, type XY } from "./drawing";
import { useHand } from "./store";

const LEAST_PX = 6;

/** Shift and a drag over nothing: a box, and all that lies wholly in it is chosen, profiles too. */
export function useBox(host: RefObject<HTMLElement | null>, shown: Shown | undefined) {
  const now = useRef(shown);
  now.current = shown;
  useEffect(() => {
    const el = host.current;
    if (!el) return undefined;
    let from: XY | null = null;
    const here = (e: PointerEvent): XY => {
      const box = el.getBoundingClientRect();
      return [e.clientX - box.left, e.clientY - box.top];
    };
    const press = (e: PointerEvent) => {
      const h = useHand.getState();
      if (!e.shiftKey || e.button !== 0 || h.tool || h.over || !(e.target instanceof HTMLCanvasElement)) return;
      from = here(e);
      e.stopPropagation(); // the view stays still
    };
    const move = (e: PointerEvent) => {
      if (from) useHand.getState().set({ box: [from, here(e)] });
    };
    const lift = (e: PointerEvent) => {
      const [a, b] = [from, here(e)];
      from = null;
      const h = useHand.getState();
      if (h.box) h.set({ box: null });
      if (!a || !h.sheet || !now.current || Math.hypot(b[0] - a[0], b[1] - a[1]) < LEAST_PX) return;
      const corners = [toPlane(h.sheet, a), toPlane(h.sheet, b)];
      if (!corners[0] || !corners[1]) return;
      const found = inBox(now.current, corners[0], corners[1]);
      h.set({ chosen: found.entities, profiles: found.profiles });
    };
    el.addEventListener("pointerdown", press, true);
    el.addEventListener("pointermove", move);
    el.addEventListener("pointerup", lift);
    return () => {
      el.removeEventListener("pointerdown", press, true);
      el.removeEventListener("pointermove", move);
      el.removeEventListener("pointerup", lift);
    };
  }, [host]);
}
