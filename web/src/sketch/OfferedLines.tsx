import { saidOf } from "./bringIn";
import { type Sheet, toScreen, type XY } from "./drawing";
import { pathOf } from "./Strokes";
import type { Offer } from "./useLinkable";

interface Props {
  offers: readonly Offer[];
  offered: number | null;
  sheet: Sheet;
}

/** What could be brought in, faint, and what the pointer means, strong and named. */
export function OfferedLines({ offers, offered, sheet }: Props) {
  const meant = offered === null ? undefined : offers[offered];
  const where = meant?.paths[0]?.[0];
  const [x, y] = where ? toScreen(sheet, where as XY) : [0, 0];
  return (
    <g className="offered" data-offers={offers.length} data-offered={meant?.link.way ?? ""}>
      <path d={offers.flatMap((o) => o.paths.map((p) => pathOf(sheet, p as XY[]))).join("")} />
      {meant && (
        <>
          <path className="meant" d={meant.paths.map((p) => pathOf(sheet, p as XY[])).join("")} />
          {meant.paths
            .filter((p) => p.length === 1)
            .map((p) => {
              const [px, py] = toScreen(sheet, p[0] as XY);
              return <circle key={p.join()} className="meant" cx={px} cy={py} r={5} />;
            })}
          <text x={x + 8} y={y - 8}>
            {saidOf(meant)}
          </text>
        </>
      )}
    </g>
  );
}

/** Why nothing is offered: it is still looked for, or there is nothing of that kind above the sketch. */
export function OfferedNote({ busy, none }: { busy: boolean; none: boolean }) {
  if (!busy && !none) return null;
  return (
    <p className="offered-note" role="status">
      {busy ? "looking at what can be brought in …" : "Nothing above this sketch can be brought in this way."}
    </p>
  );
}
