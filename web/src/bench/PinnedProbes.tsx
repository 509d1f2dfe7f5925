import { useEffect, useRef } from "react";
import { signed } from "../units";
import { placedPoint } from "../view/pose";
import { project } from "../view/stage";
import { useBench } from "./context";

/** Pinned probes on the coloured scan, each with its deviation now. */
export function PinnedProbes({ onFrame }: { onFrame: { current: () => void } }) {
  const { job, unit, pose } = useBench();
  const host = useRef<HTMLDivElement>(null);
  const probes = job.recipe.probes ?? [];
  const values = job.build.result?.fit?.probes ?? {};
  useEffect(() => {
    const place = () => {
      const box = host.current?.parentElement?.getBoundingClientRect();
      if (!box || !host.current) return;
      Array.from(host.current.children).forEach((el, i) => {
        const p = project(placedPoint(pose, probes[i]!.point as [number, number, number]));
        (el as HTMLElement).style.transform = `translate(${p.x - box.left}px, ${p.y - box.top}px)`;
        (el as HTMLElement).hidden = !p.visible;
      });
    };
    onFrame.current = place;
    place();
    return () => {
      onFrame.current = () => undefined;
    };
  });
  return (
    <div ref={host} className="pins">
      {probes.map((p) => (
        <div key={p.id} className="pin figures">
          <i />
          <span>
            {p.name} {values[p.id] === undefined ? "…" : signed(values[p.id]!, unit, 1)}
          </span>
        </div>
      ))}
    </div>
  );
}
