import type { Palette } from "../theme";
import { signed, type Unit } from "../units";
import { bands } from "./deviation";

interface Props {
  acceptance: number;
  unit: Unit;
  palette: Palette;
  what?: keyof typeof WORDS;
}

const WORDS = {
  fit: { above: "scan outside the body +", below: "scan inside the body −", within: "inside ±" },
  moved: { above: "material added +", below: "material taken away −", within: "moved less than " },
  noise: { above: "noise around, more than the scan's own", within: "up to ", below: null },
  form: { above: "scan proud of the surface +", below: "scan below the surface −", within: "inside ±" },
};

/** What the colours of deviation, of what moved, of noise, or of a region's residuals mean, in the job's unit. */
export function Legend({ acceptance, unit, palette, what = "fit" }: Props) {
  // Of what has no less than nothing, only the upper half is there.
  const all = bands(palette)
    .filter((b) => WORDS[what].below !== null || b.to > 0)
    .reverse();
  // As many digits as it takes for no two rows to read alike.
  const edges = all.flatMap((b) => [b.from, b.to]).filter(Number.isFinite);
  const apart = new Set(edges).size;
  const digits =
    [0, 1, 2, 3].find((d) => new Set(edges.map((e) => signed(e * acceptance, unit, d))).size === apart) ?? 3;
  const shown = (x: number) => {
    const text = signed(x, unit, digits);
    return WORDS[what].below === null ? text.replace("+", "") : text;
  };
  const word = (from: number, to: number) => {
    if (from === -1) return `${WORDS[what].within}${signed(acceptance, unit, digits).slice(1)}`;
    if (!Number.isFinite(to)) return `over ${shown(from * acceptance)}`;
    if (!Number.isFinite(from)) return `under ${shown(to * acceptance)}`;
    const near = Math.abs(from) < Math.abs(to) ? from : to;
    return `${near > 0 ? "from" : "to"} ${shown(near * acceptance)}`;
  };
  return (
    <aside className="legend" aria-label={what === "noise" ? "Legend of the noise" : "Legend of deviations"}>
      <div className="field-label">{WORDS[what].above}</div>
      {all.map((b) => (
        <div key={b.from} className="legend-row">
          <i style={{ background: b.colour }} />
          <span className="figures">{word(b.from, b.to)}</span>
        </div>
      ))}
      {WORDS[what].below && <div className="field-label">{WORDS[what].below}</div>}
    </aside>
  );
}
