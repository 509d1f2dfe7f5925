import { type ReactNode, useEffect, useRef, useState } from "react";
import type { Vec3 } from "../api/build";
import { project } from "../view/stage";

interface Props {
  anchor: Vec3 | null;
  /** Called by the view after every frame, so that the leader follows the part. */
  onFrame: { current: () => void };
  children: ReactNode;
}

/** Holds the card on the side of the view away from what is picked, with a leader to the place. It can be moved. */
export function CardHost({ anchor, onFrame, children }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const line = useRef<SVGLineElement>(null);
  const dot = useRef<SVGCircleElement>(null);
  const [moved, setMoved] = useState<{ x: number; y: number } | null>(null);
  // Whoever folds it wants to see the part: the next pick's card stays folded too.
  const [folded, setFolded] = useState(false);
  const side = useRef<"left" | "right">("right");
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new anchor chooses its side afresh
  useEffect(() => setMoved(null), [anchor]);
  useEffect(() => {
    const place = () => {
      const box = host.current?.parentElement?.getBoundingClientRect();
      const card = host.current?.getBoundingClientRect();
      if (!box || !card || !anchor) return;
      const p = project(anchor);
      const x = p.x - box.left;
      const y = p.y - box.top;
      if (!moved) {
        if (x > box.width * 0.55) side.current = "left";
        if (x < box.width * 0.45) side.current = "right";
        host.current!.style.left = side.current === "left" ? "14px" : `${box.width - card.width - 14}px`;
        host.current!.style.top = "14px";
      }
      const left = Number.parseFloat(host.current!.style.left);
      const top = Number.parseFloat(host.current!.style.top);
      const fromX = x < left + card.width / 2 ? left : left + card.width;
      line.current?.setAttribute("x1", String(fromX));
      line.current?.setAttribute("y1", String(top + 22));
      line.current?.setAttribute("x2", String(x));
      line.current?.setAttribute("y2", String(y));
      dot.current?.setAttribute("cx", String(x));
      dot.current?.setAttribute("cy", String(y));
    };
    onFrame.current = place;
    place();
    const later = setTimeout(place, 60);
    return () => clearTimeout(later);
  });
  const drag = (e: React.PointerEvent<HTMLDivElement>) => {
    if ((e.target as HTMLElement).closest("button, input, label, .problem")) return;
    const el = host.current!;
    const start = { x: e.clientX - el.offsetLeft, y: e.clientY - el.offsetTop };
    const move = (m: PointerEvent) => {
      el.style.left = `${m.clientX - start.x}px`;
      el.style.top = `${m.clientY - start.y}px`;
      setMoved({ x: m.clientX - start.x, y: m.clientY - start.y });
    };
    const up = () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
  };
  return (
    <>
      {anchor && (
        <svg className="leader" aria-hidden="true">
          <line ref={line} />
          <circle ref={dot} r="4" />
        </svg>
      )}
      <div ref={host} className={folded ? "card-host folded" : "card-host"} onPointerDown={drag}>
        {children}
        <button
          type="button"
          className="fold-card"
          aria-expanded={!folded}
          aria-label={folded ? "Unfold the card" : "Fold the card"}
          onClick={() => setFolded(!folded)}
        >
          {folded ? "▾" : "▴"}
        </button>
      </div>
    </>
  );
}
