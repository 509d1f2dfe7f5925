import { useEffect } from "react";
import { stage } from "../view/stage";
import { pickEdges } from "./edges";
import { useHover } from "./hover";

/** While `on`, the edge under the pointer is said to the highlight, once per frame at most. */
export function useHoverEdges(host: React.RefObject<HTMLDivElement | null>, on: boolean) {
  useEffect(() => {
    const el = host.current;
    if (!el || !on) return;
    const { over } = useHover.getState();
    let waiting = 0;
    const move = (e: PointerEvent) => {
      if (e.buttons || waiting) return;
      waiting = requestAnimationFrame(() => {
        waiting = 0;
        const hit = pickEdges(e.clientX, e.clientY)[0];
        over(hit ? { key: hit.key, edge: hit.edge } : null);
        stage.now?.invalidate();
      });
    };
    const leave = () => {
      over(null);
      stage.now?.invalidate();
    };
    el.addEventListener("pointermove", move);
    el.addEventListener("pointerleave", leave);
    return () => {
      cancelAnimationFrame(waiting);
      over(null);
      el.removeEventListener("pointermove", move);
      el.removeEventListener("pointerleave", leave);
    };
  }, [host, on]);
}
