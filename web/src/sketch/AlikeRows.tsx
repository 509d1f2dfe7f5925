import { Checkbox } from "antd";
import { useBench } from "../job/context";
import { length } from "../units";
import type { Fit } from "./drawing";
import { alikeKey } from "./fit";
import { useHandOf } from "./store";

interface Props {
  fit: Fit;
  chosen: readonly string[];
  onChoose: (chosen: string[]) => void;
}

/** What the section does not tell apart: it can be made one when the fit is taken. Pointing at it shows it in the drawing. */
export function AlikeRows({ fit, chosen, onChoose }: Props) {
  const { unit } = useBench();
  const { set } = useHandOf("set");
  const rows = fit.alike ?? [];
  if (!rows.length) return null;
  return (
    <div className="alike-rows">
      <div className="field-label">What was measured does not tell apart</div>
      {rows.map((a) => {
        const key = alikeKey(a);
        const on = chosen.includes(key);
        return (
          <Checkbox
            key={key}
            checked={on}
            onMouseEnter={() => set({ chosen: [...a.of] })}
            onMouseLeave={() => set({ chosen: [] })}
            onChange={() => onChoose(on ? chosen.filter((k) => k !== key) : [...chosen, key])}
          >
            {a.kind === "equal" ? "make equal" : "make symmetric"}: {a.of.join(", ")}{" "}
            <span className="quiet">
              off by {length(a.off, unit, 1)}, known to ± {length(a.u, unit, 1)}
            </span>
          </Checkbox>
        );
      })}
    </div>
  );
}
