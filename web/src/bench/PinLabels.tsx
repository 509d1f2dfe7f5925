import { useEffect, useRef } from "react";
import { isReading, type ReadingFacts, readingText } from "../desk/facts";
import { signed } from "../units";
import { placedPoint } from "../view/pose";
import { project } from "../view/stage";
import { useBench } from "./context";

interface Props {
  /** Whether the view is coloured by deviation: then probes say theirs. */
  coloured: boolean;
  onFrame: { current: () => void };
}

/** What is pinned on the scan: readings where they were taken, and probes with their deviation now. */
export function PinLabels({ coloured, onFrame }: Props) {
  const { job, unit, pose, scanId } = useBench();
  const host = useRef<HTMLDivElement>(null);
  const deviations = job.build.result?.fit?.probes ?? {};
  const facts = job.readings as unknown as Record<string, ReadingFacts>;
  const readings = job.recipe.evidence.filter(isReading).filter((r) => r.pin?.on === scanId);
  const probes = coloured ? (job.recipe.probes ?? []) : [];
  const rows = [
    ...readings.map((r) => ({ id: r.id, point: r.pin!.at, text: `${r.name} ${readingText(facts[r.id], unit)}` })),
    ...probes.map((p) => {
      const found = deviations[p.id];
      return { id: p.id, point: p.point, text: `${p.name} ${found === undefined ? "…" : signed(found, unit, 1)}` };
    }),
  ];
  useEffect(() => {
    const place = () => {
      const box = host.current?.parentElement?.getBoundingClientRect();
      if (!box || !host.current) return;
      Array.from(host.current.children).forEach((el, i) => {
        const p = project(placedPoint(pose, rows[i]!.point as [number, number, number]));
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
      {rows.map((r) => (
        <div key={r.id} className="pin figures">
          <i />
          <span>{r.text}</span>
        </div>
      ))}
    </div>
  );
}
