import { memo, useMemo } from "react";
import { unpackF4 } from "../view/buffers";
import { type Frame, onSheet, type Sheet, toScreen, type XY } from "./drawing";
import { pathOf } from "./Strokes";
import type { Evidence } from "./useUnderlay";

const MOST_DOTS = 1500;

/** The evidence in its own inks: the section's points as fine dots, its pieces faint with their end marks, cuts of bodies in long grey dashes. */
export const UnderLines = memo(function UnderLines(props: { evidence: Evidence; frame: Frame; sheet: Sheet }) {
  const { evidence, frame, sheet } = props;
  const dots = useMemo(() => dotsOf(evidence, frame), [evidence, frame]);
  return (
    <g className="under">
      {dots.map((p, i) => {
        const [x, y] = toScreen(sheet, p);
        // biome-ignore lint/suspicious/noArrayIndexKey: points of one cut stay where they are
        return <circle key={i} className="under-dot" cx={x} cy={y} r={1} />;
      })}
      {evidence.pieces.map((p, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: pieces of one section stay where they are
        <path key={i} className={`under-piece under-${p.kind}`} d={pathOf(sheet, p.path)} />
      ))}
      {evidence.pieces.map((p, i) => {
        const [x, y] = toScreen(sheet, p.path[0] ?? [0, 0]);
        // biome-ignore lint/suspicious/noArrayIndexKey: as above
        return <rect key={i} className="under-end" x={x - 2} y={y - 2} width={4} height={4} />;
      })}
      {evidence.bodies.length > 0 && (
        <path className="under-body" d={evidence.bodies.map((pair) => pathOf(sheet, pair)).join("")} />
      )}
    </g>
  );
});

function dotsOf(evidence: Evidence, frame: Frame): XY[] {
  const all = (evidence.section?.cuts ?? []).flatMap((c) => {
    const p = unpackF4(c.points);
    return Array.from({ length: Math.floor(p.length / 3) }, (_, k) =>
      onSheet(frame, [p[3 * k]!, p[3 * k + 1]!, p[3 * k + 2]!]),
    );
  });
  const every = Math.ceil(all.length / MOST_DOTS);
  return all.filter((_, i) => i % Math.max(every, 1) === 0);
}
