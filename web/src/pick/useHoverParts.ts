import { useEffect } from "react";
import { useHand } from "../sketch/store";
import { stage } from "../view/stage";
import { useArmed } from "./armed";
import { pickEdges } from "./edges";
import { useHover } from "./hover";
import { offeredAt, useOffered } from "./offered";

/** What the pointer is at is said to the highlight, once per frame at most: what is offered just now, else an edge where one would
 * be taken. */
export function useHoverParts(host: React.RefObject<HTMLDivElement | null>) {
  const armed = useArmed((s) => s.armed);
  const drawing = useHand((s) => s.sheet !== null);
  const edges = (armed === null && !drawing) || armed?.onEdge !== undefined;
  const offers = armed?.offers !== undefined;
  useEffect(() => {
    const el = host.current;
    if (!el || !(edges || offers)) return;
    const { over } = useHover.getState();
    const { point } = useOffered.getState();
    let waiting = 0;
    const move = (e: PointerEvent) => {
      if (e.buttons || waiting) return;
      waiting = requestAnimationFrame(() => {
        waiting = 0;
        const offered = offers ? offeredAt(e.clientX, e.clientY) : null;
        point(offered);
        const hit = edges && !offered ? pickEdges(e.clientX, e.clientY)[0] : undefined;
        over(hit ? { key: hit.key, edge: hit.edge } : null);
        stage.now?.invalidate();
      });
    };
    const leave = () => {
      over(null);
      point(null);
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
  }, [host, edges, offers]);
}
