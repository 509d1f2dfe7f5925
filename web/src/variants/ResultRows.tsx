import type { Column } from "../api/client";
import { useBench } from "../job/context";
import { length, share, volume } from "../units";

/** What was found of every state, row by row. */
export function ResultRows({ columns, ids }: { columns: readonly Column[]; ids: readonly string[] }) {
  const { job, unit } = useBench();
  const of = (id: string) => columns.find((c) => c.id === id);
  const rows: [string, (c: Column) => string | null][] = [
    [
      `Scan within ±${length(job.recipe.acceptance_mm ?? 0.1, unit)}`,
      (c) => (c.fit ? share(c.fit.inside_share) : null),
    ],
    ["Scan off by, rms", (c) => (c.fit ? length(c.fit.rms, unit, 1) : null)],
    ["95 % of it within", (c) => (c.fit ? length(c.fit.p95, unit, 1) : null)],
    ["Volume", (c) => (c.closed ? volume(c.volume, unit) : null)],
    ["Mass", (c) => (c.mass ? `${c.mass.toPrecision(4)} g` : null)],
    ["Closed bodies", (c) => `${c.closed} of ${c.bodies}`],
  ];
  const best = Math.max(...columns.map((c) => c.fit?.inside_share ?? 0));
  const told = rows.filter(([, say]) => columns.some((c) => say(c) !== null));
  return (
    <tbody className="variant-results">
      {told.map(([label, say], k) => (
        <tr key={label}>
          <th scope="row">{label}</th>
          {ids.map((id) => {
            const c = of(id);
            const closest = k === 0 && columns.length > 1 && c?.fit?.inside_share === best;
            return (
              <td key={id} className={`figures${closest ? " variant-closest" : ""}`}>
                {c && !c.problem ? (say(c) ?? "–") : "–"}
                {closest && <div className="small">closest to the scan</div>}
              </td>
            );
          })}
        </tr>
      ))}
      {columns.some((c) => c.lost?.length || c.problem) && (
        <tr>
          <th scope="row">Does not come out</th>
          {ids.map((id) => {
            const c = of(id);
            return (
              <td key={id} className="small">
                {c?.problem && `${c.problem.message}: ${c.problem.remedy}`}
                {c?.lost?.map((x) => (
                  <div key={x.step}>
                    ▲ <b>{x.name}</b>: {x.message}
                  </div>
                ))}
              </td>
            );
          })}
        </tr>
      )}
    </tbody>
  );
}
