import type { Palette } from "../theme";
import { signed, type Unit } from "../units";
import { bands } from "../view/deviation";

/** What the colours of deviation mean, in the job's unit. */
export function Legend({ acceptance, unit, palette }: { acceptance: number; unit: Unit; palette: Palette }) {
  const all = [...bands(palette)].reverse();
  const word = (from: number, to: number) => {
    if (from === -1) return `inside ±${signed(acceptance, unit).slice(1)}`;
    if (!Number.isFinite(to)) return `over ${signed(from * acceptance, unit)}`;
    if (!Number.isFinite(from)) return `under ${signed(to * acceptance, unit)}`;
    const near = Math.abs(from) < Math.abs(to) ? from : to;
    return `${near > 0 ? "from" : "to"} ${signed(near * acceptance, unit)}`;
  };
  return (
    <aside className="legend" aria-label="Legend of deviations">
      <div className="field-label">scan outside the body +</div>
      {all.map((b) => (
        <div key={b.from} className="legend-row">
          <i style={{ background: b.colour }} />
          <span className="figures">{word(b.from, b.to)}</span>
        </div>
      ))}
      <div className="field-label">scan inside the body −</div>
    </aside>
  );
}
