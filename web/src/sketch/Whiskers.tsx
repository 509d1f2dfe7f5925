import { memo } from "react";
import type { Fit, Sheet } from "./drawing";
import { whiskers } from "./fit";

/** From what is drawn to what was measured, many times as long. */
export const Whiskers = memo(function Whiskers({ fit, sheet }: { fit: Fit; sheet: Sheet }) {
  return (
    <g className="whiskers">
      {whiskers(fit, sheet).map(({ from, to, above, outside }, k) => (
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
