import { Checkbox } from "antd";
import { useBench } from "../job/context";
import { length } from "../units";
import type { Fit } from "./drawing";

/** The figure without its unit: that follows with the uncertainty. */
const bare = (text: string) => text.split(" ")[0]!;

interface Props {
  fit: Fit;
  rounded: readonly string[];
  onRound: (name: string) => void;
}

/** Each size: what it reads, what the section says with its uncertainty, and a round value where one fits. */
export function FitRows({ fit, rounded, onRound }: Props) {
  const { unit } = useBench();
  if (!fit.sizes.length) return null;
  const angles = new Set((fit.drawing?.sizes ?? []).filter((s) => s.kind === "angle").map((s) => s.name));
  const said = (name: string, value: number, digits = 0) =>
    angles.has(name) ? `${value.toFixed(2)}°` : length(value, unit, digits);
  return (
    <table className="fit-rows">
      <thead>
        <tr>
          <th>size</th>
          <th>reads</th>
          <th>fitted ± u</th>
          <th>round</th>
        </tr>
      </thead>
      <tbody>
        {fit.sizes.map((s) => (
          <tr key={s.name} data-size={s.name}>
            <td>{s.name}</td>
            <td className="figures">{said(s.name, s.before)}</td>
            <td className="figures">
              {s.held ? (
                <span className="quiet">{s.held}</span>
              ) : (
                <>
                  {bare(said(s.name, s.value, 1))} {s.u === null ? "± ?" : `± ${said(s.name, s.u, 1)}`}
                </>
              )}
            </td>
            <td>
              {s.round && (
                <Checkbox checked={rounded.includes(s.name)} onChange={() => onRound(s.name)}>
                  {s.round}
                </Checkbox>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
