import { useBench } from "../job/context";
import { Copyable } from "../ui/Copyable";
import { length } from "../units";
import { nameOf, type RegionRow, threadSize } from "./facts";

/** Beyond which a standard is told apart from what was measured. */
const ALIKE_U = 3;

/** What was measured of the threads among the regions, and which standard threads are near. */
export function ThreadsNear({ rows }: { rows: RegionRow[] }) {
  const { unit } = useBench();
  const threads = rows.filter((r) => r.kind === "thread");
  if (threads.length === 0) return null;
  return (
    <Copyable name="threads">
      <table className="thread-rows figures">
        <thead>
          <tr>
            <th>thread</th>
            <th>Ø major × pitch, {unit}</th>
            <th>hand</th>
            <th>nearest standards, and how far off in u</th>
          </tr>
        </thead>
        <tbody>
          {threads.slice(0, 12).map((r) => (
            <tr key={r.id}>
              <td>{nameOf(r)}</td>
              <td>
                {threadSize(r, unit).replace(` ${unit}`, "")}
                <span className="quiet"> ± {length(2 * (r.u.major ?? 0), unit).replace(` ${unit}`, "")}</span>
              </td>
              <td>
                {r.params.hand}
                {(r.params.starts ?? 1) > 1 && `, ${r.params.starts} starts`}
              </td>
              <td>
                {r.candidates.slice(0, 3).map((c, k) => (
                  <span key={c.designation} className={c.difference_u > ALIKE_U ? "quiet" : ""}>
                    {k > 0 && " · "}
                    {k === 0 ? <b>{c.designation}</b> : c.designation} {c.difference_u.toFixed(1)}
                  </span>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Copyable>
  );
}
