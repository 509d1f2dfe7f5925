import type { Change } from "../api/client";
import type { components } from "../api/schema";
import { useBench } from "../job/context";
import { Copyable } from "../ui/Copyable";
import { share, signed, volume } from "../units";
import { goTo } from "../view/stage";

export interface Compared {
  changes: Change[];
  /** Not measured yet, or nothing to measure. */
  moved: components["schemas"]["MovedFaces"] | null | undefined;
  volumes: readonly number[];
}

/** What was changed between two states, and what it did to the part. */
export function Comparison({ compared }: { compared: Compared | null }) {
  const { unit } = useBench();
  return (
    <>
      {!compared && <p className="quiet">comparing …</p>}
      {compared && compared.changes.length === 0 && <p className="quiet">Nothing was changed between the two.</p>}
      {compared && compared.changes.length > 0 && (
        <Copyable name="changes">
          <table className="changes">
            <thead>
              <tr>
                <th>what</th>
                <th>before</th>
                <th>after</th>
              </tr>
            </thead>
            <tbody>
              {compared.changes.map((c) => (
                <tr key={`${c.what}-${c.field}`}>
                  <td>
                    {c.what}
                    <div className="quiet small">{c.field.replaceAll("_", " ")}</div>
                  </td>
                  <td className="figures">{c.before ?? "–"}</td>
                  <td className="figures">{c.after ?? "–"}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Copyable>
      )}
      {compared && compared.moved === undefined && <p className="quiet">measuring what moved …</p>}
      {compared?.moved === null && <p className="quiet">One of the states has no body: nothing to measure.</p>}
      {compared?.moved && (
        <dl className="fact-list">
          <div>
            <dt>moved surface</dt>
            <dd>{share(compared.moved.moved_share)}</dd>
          </div>
          <div>
            <dt>
              <button type="button" className="link" onClick={() => goTo(compared.moved!.largest_at)}>
                moved most
              </button>
            </dt>
            <dd>{signed(compared.moved.largest, unit, 1)}</dd>
          </div>
          <div>
            <dt>volume</dt>
            <dd>{`${compared.volumes[1]! >= compared.volumes[0]! ? "+" : "−"}${volume(Math.abs(compared.volumes[1]! - compared.volumes[0]!), unit)}`}</dd>
          </div>
        </dl>
      )}
    </>
  );
}
