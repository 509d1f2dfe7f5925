import { useEffect, useRef } from "react";
import type { Vec3 } from "../api/build";
import type { SectionOut } from "../api/client";
import { usePlaces } from "../construct/usePlaces";
import { isReading, readingText } from "../desk/facts";
import { useBench } from "../job/context";
import { length, signed } from "../units";
import { useAppearance } from "./appearance";
import { laidOut, leaderEnd } from "./labelLayout";
import { placedPoint } from "./pose";
import { project } from "./stage";

const middle = (a: Vec3, b: Vec3): Vec3 => [0, 1, 2].map((i) => (a[i]! + b[i]!) / 2) as Vec3;

interface Props {
  /** Gaps of the scan that a section is closed over. */
  gaps: NonNullable<SectionOut["gaps"]>;
  /** Whether the view is coloured by deviation: then probes say theirs. */
  coloured: boolean;
  onFrame: { current: () => void };
}

/** What is pinned on the scan: readings where they were taken, probes with their deviation now, and gaps that a section is closed over. Laid out anew with every frame. */
export function PinLabels({ gaps, coloured, onFrame }: Props) {
  const { job, unit, pose, scanId } = useBench();
  const host = useRef<HTMLDivElement>(null);
  const lines = useRef<SVGSVGElement>(null);
  const note = useRef<HTMLDivElement>(null);
  const deviations = job.build.result?.fit?.probes ?? {};
  const facts = job.readings;
  const readings = job.recipe.evidence.filter(isReading).filter((r) => r.pin?.on === scanId);
  const raw = (p: Vec3) => placedPoint(pose, p);
  const probes = coloured ? (job.recipe.probes ?? []) : [];
  const { measures } = usePlaces();
  const hidden = useAppearance((s) => s.hidden);
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
    ...gaps.map((g, i) => ({
      id: `gap-${i}`,
      point: g.middle,
      text: `Gap ${i + 1} ${length(g.length, unit)}`,
      at: lying,
    })),
  ].filter((row) => !hidden.includes(row.id));
  useEffect(() => {
    const place = () => {
      const box = host.current?.getBoundingClientRect();
      if (!box || !host.current || !lines.current) return;
      const pins = [...host.current.querySelectorAll<HTMLElement>(".pin")];
      const anchors = pins.map((pin, i) => {
        const p = project(rows[i]!.at(rows[i]!.point));
        const label = pin.lastElementChild as HTMLElement;
        return p.visible
          ? { x: p.x - box.left, y: p.y - box.top, width: label.offsetWidth, height: label.offsetHeight }
          : null;
      });
      const bars = [...(host.current.parentElement?.querySelectorAll("[role=toolbar], .card") ?? [])];
      const taken = bars.map((b) => {
        const r = b.getBoundingClientRect();
        return { x: r.left - box.left, y: r.top - box.top, width: r.width, height: r.height };
      });
      const placed = laidOut(anchors, box, taken);
      pins.forEach((pin, i) => {
        const [anchor, at, line] = [anchors[i], placed[i], lines.current!.children[i]!];
        pin.hidden = !anchor;
        line.toggleAttribute("hidden", !anchor || !at);
        if (!anchor) return;
        pin.style.transform = `translate(${anchor.x}px, ${anchor.y}px)`;
        const label = pin.lastElementChild as HTMLElement;
        label.hidden = !at;
        if (!at) return;
        label.style.transform = `translate(${at.x - anchor.x}px, ${at.y - anchor.y}px)`;
        const end = leaderEnd(anchor, at);
        for (const [name, value] of Object.entries({ x1: anchor.x, y1: anchor.y, x2: end.x, y2: end.y }))
          line.setAttribute(name, value.toFixed(1));
      });
      const folded = placed.filter((p, i) => anchors[i] && !p).length;
      if (note.current) note.current.textContent = folded ? `${folded} more labels than there is room for` : "";
    };
    onFrame.current = place;
    place();
    return () => {
      onFrame.current = () => undefined;
    };
  });
  return (
    <div ref={host} className="pins">
      <svg ref={lines} className="pin-leaders" aria-hidden="true">
        {rows.map((r) => (
          <line key={r.id} />
        ))}
      </svg>
      {rows.map((r) => (
        <div key={r.id} className="pin figures">
          <i />
          <span>{r.text}</span>
        </div>
      ))}
      <div ref={note} className="pins-folded quiet small" />
    </div>
  );
}
