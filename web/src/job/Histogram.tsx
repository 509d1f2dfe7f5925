import type { Palette } from "../theme";
import { signed, type Unit } from "../units";

interface Props {
  shares: number[];
  acceptance: number;
  unit: Unit;
  palette: Palette;
}

/** Area shares of deviations over ±2 acceptances; the outermost bars hold what lies beyond. Square-root height. */
export function Histogram({ shares, acceptance, unit, palette }: Props) {
  const n = shares.length;
  const top = Math.max(...shares, 1e-9);
  const width = 430;
  const height = 52;
  const bar = width / n;
  const colour = (i: number) => {
    const x = ((i + 0.5) / n) * 4 - 2;
    return x < -1 ? palette.below : x > 1 ? palette.above : palette.quiet;
  };
  return (
    <svg
      className="histogram"
      viewBox={`0 0 ${width} ${height + 18}`}
      role="img"
      aria-label="Signed deviations, share of the scan's area"
    >
      {shares.map((s, i) => {
        const h = Math.sqrt(s / top) * height;
        return (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: bins are their index
            key={i}
            x={i * bar + 0.5}
            y={height - h}
            width={bar - 1}
            height={h}
            fill={colour(i)}
            opacity={colour(i) === palette.quiet ? 0.55 : 1}
          />
        );
      })}
      <line x1="0" x2={width} y1={height} y2={height} stroke={palette.line} />
      {[-1, 1].map((k) => {
        const x = ((k + 2) / 4) * width;
        return (
          <g key={k}>
            <line x1={x} x2={x} y1="0" y2={height + 3} stroke={palette.ink} strokeDasharray="2 3" />
            <text x={x} y={height + 15} textAnchor="middle">
              {signed(k * acceptance, unit)}
            </text>
          </g>
        );
      })}
      <text x="0" y={height + 15}>
        ≤ {signed(-2 * acceptance, unit).replace(` ${unit}`, "")}
      </text>
      <text x={width} y={height + 15} textAnchor="end">
        ≥ {signed(2 * acceptance, unit).replace(` ${unit}`, "")}
      </text>
    </svg>
  );
}
