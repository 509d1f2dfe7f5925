import { useEffect, useRef } from "react";
import type { Vec3 } from "../api/build";
import { usePlaces } from "../construct/usePlaces";
import { isReading, readingText } from "../desk/facts";
import { useBench } from "../job/context";
import { signed } from "../units";
import { placedPoint } from "./pose";
import { project } from "./stage";

const middle = (a: Vec3, b: Vec3): Vec3 => [0, 1, 2].map((i) => (a[i]! + b[i]!) / 2) as Vec3;

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
  const facts = job.readings;
  const readings = job.recipe.evidence.filter(isReading).filter((r) => r.pin?.on === scanId);
  const raw = (p: Vec3) => placedPoint(pose, p);
  const probes = coloured ? (job.recipe.probes ?? []) : [];
  const { measures } = usePlaces();
  const lying = (p: Vec3) => p;
  const rows: { id: string; point: Vec3; text: string; at: (p: Vec3) => Vec3 }[] = [
    ...measures
      .filter((m) => m.from)
      .map((m) => ({
        id: m.id + m.passing,
        point: middle(m.from!, m.to ?? m.from!),
        text: `${m.name} ${m.text}`.trim(),
        at: lying,
      })),
    ...readings.map((r) => ({
      id: r.id,
      point: r.pin!.at as Vec3,
      text: `${r.name} ${readingText(facts[r.id], unit)}`,
      at: raw,
    })),
    ...probes.map((p) => {
      const found = deviations[p.id];
      return {
        id: p.id,
        point: p.point as Vec3,
        text: `${p.name} ${found === undefined ? "…" : signed(found, unit, 1)}`,
        at: raw,
      };
    }),
  ];
  useEffect(() => {
    const place = () => {
      const box = host.current?.parentElement?.getBoundingClientRect();
      if (!box || !host.current) return;
      Array.from(host.current.children).forEach((el, i) => {
        const p = project(rows[i]!.at(rows[i]!.point));
        const x = p.x - box.left;
        (el as HTMLElement).style.transform = `translate(${x}px, ${p.y - box.top}px)`;
        // Near the right border a label stands on the other side of its place.
        el.classList.toggle(
          "flipped",
          x + 8 + ((el.lastElementChild as HTMLElement | null)?.offsetWidth ?? 0) > box.width - 6,
        );
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
