import { memo } from "react";
import { type Sheet, type Shown, toScreen } from "./drawing";
import { pathOf } from "./Strokes";

/** Closed regions, filled lightly; those that something is to be made of more; gaps ringed where they are. */
export const Regions = memo(function Regions({
  shown,
  sheet,
  profiles,
}: {
  shown: Shown;
  sheet: Sheet;
  profiles: readonly string[];
}) {
  return (
    <g>
      {shown.regions.map((r) => (
        <path
          key={r.name}
          data-region={r.name}
          className={`region ${profiles.includes(r.name) ? "wanted" : ""}`}
          fillRule="evenodd"
          d={r.rings.map((ring) => pathOf(sheet, ring, true)).join("")}
        />
      ))}
      {shown.gaps.map((g, k) => {
        const [x, y] = toScreen(sheet, g.at);
        return (
          <g key={`${g.between.join("-")}-${g.at.join(",")}`} className="gap-ring">
            <circle cx={x} cy={y} r={9} />
            <text x={x + 11} y={y - 7}>
              {k + 1}
            </text>
          </g>
        );
      })}
    </g>
  );
});
