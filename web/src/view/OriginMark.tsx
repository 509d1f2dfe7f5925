import { useEffect, useRef } from "react";
import { goTo, stage } from "./stage";
import { edgeOf } from "./viewEdge";

/** Where the origin lies when it is out of sight: a small mark at the edge of the view, on the way to it. */
export function OriginMark({ onFrame }: { onFrame: { current: () => void } }) {
  const mark = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    const place = () => {
      const el = mark.current;
      const box = el?.parentElement?.getBoundingClientRect();
      if (!el || !box || !stage.now) return;
      const at = edgeOf(stage.now.camera, [0, 0, 0], box.width, box.height);
      el.hidden = at === null;
      if (at) el.style.transform = `translate(${at.x}px, ${at.y}px) translate(-50%, -50%)`;
    };
    onFrame.current = place;
    place();
    return () => {
      onFrame.current = () => undefined;
    };
  }, [onFrame]);
  return (
    <button ref={mark} type="button" className="origin-mark" title="go to the origin" onClick={() => goTo([0, 0, 0])}>
      origin
    </button>
  );
}
