import { useBench } from "../job/context";
import { Copyable } from "../ui/Copyable";
import { length } from "../units";
import { nameOf, type RegionRow, threadSize } from "./facts";

/** Beyond which a standard is told apart from what was measured. */
const ALIKE_U = 3;
const MOST = 8;

/** What was measured of the threads among the regions, and which standard threads are near. */
export function ThreadsNear({ rows }: { rows: RegionRow[] }) {
  const { unit } = useBench();
  const threads = rows.filter((r) => r.kind === "thread");
  if (threads.length === 0) return null;
  return (
    <Copyable name="threads">
      <table className="threads-near figures">
        <thead>
          <tr>
            <th>thread: Ø major × pitch, {unit}</th>
            <th>nearest standards</th>
            <th>off, in u</th>
          </tr>
        </thead>
        <tbody>
          {threads.slice(0, MOST).map((r) => (
            <tr key={r.id}>
              <td>
                {threadSize(r, unit).replace(` ${unit}`, "")}
                <span className="quiet"> ± {length(2 * (r.u.major ?? 0), unit).replace(` ${unit}`, "")}</span>
                <br />
                <span className="quiet">
                  {nameOf(r).toLowerCase()}, {r.params.hand} hand
                  {(r.params.starts ?? 1) > 1 && `, ${r.params.starts} starts`}
                </span>
              </td>
              <td>
                {r.candidates.slice(0, 2).map((c) => (
                  <div key={c.designation} className={c.difference_u > ALIKE_U ? "quiet" : "strong"}>
                    {c.designation}
                  </div>
                ))}
              </td>
              <td>
                {r.candidates.slice(0, 2).map((c) => (
                  <div key={c.designation} className={c.difference_u > ALIKE_U ? "above" : "below"}>
                    {c.difference_u.toFixed(1)}
                    {c.difference_u > ALIKE_U && " ▲"}
                  </div>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
        {threads.length > MOST && <caption>and {threads.length - MOST} more: choose those you want to see.</caption>}
      </table>
    </Copyable>
  );
}
