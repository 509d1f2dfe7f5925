import type { FactsOf } from "../api/facts";
import { Copyable } from "../ui/Copyable";
import type { Unit } from "../units";
import { figuresOf } from "./places";

/** Figures of one measurement with their expanded uncertainty (95 %). */
export function Figures({ facts, unit }: { facts: FactsOf<"measurement">; unit: Unit }) {
  return (
    <>
      <Copyable name="measurement">
        <table className="measure-figures figures">
          <tbody>
            {figuresOf(facts, unit).map(([name, figure, u]) => (
              <tr key={name}>
                <th>{name}</th>
                <td>{figure}</td>
                <td className="quiet">{u}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Copyable>
      <p className="quiet small">{facts.said}</p>
    </>
  );
}
