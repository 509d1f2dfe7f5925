import { memo } from "react";
import type { Fit, Sheet } from "./drawing";
import { whiskers } from "./fit";

/** How far off the drawing is: as colour along what is drawn, stronger the farther, and as whiskers to what was measured, many times as long. */
export const Whiskers = memo(function Whiskers({ fit, sheet }: { fit: Fit; sheet: Sheet }) {
  const rows = whiskers(fit, sheet);
  return (
    <g className="whiskers">
      {rows.map(({ from, above, share }, k) => (
        <circle
          // biome-ignore lint/suspicious/noArrayIndexKey: as below
          key={k}
          className={above ? "more" : "less"}
          cx={from[0].toFixed(1)}
          cy={from[1].toFixed(1)}
          r={2.4}
          fillOpacity={(0.12 + 0.88 * share).toFixed(2)}
        />
      ))}
      {rows.map(({ from, to, above, outside }, k) => (
        <path
          // biome-ignore lint/suspicious/noArrayIndexKey: places of one section stay where they are
          key={k}
          className={`${above ? "more" : "less"} ${outside ? "outside" : ""}`}
          d={`M${from[0].toFixed(1)} ${from[1].toFixed(1)}L${to[0].toFixed(1)} ${to[1].toFixed(1)}`}
        />
      ))}
    </g>
  );
});
