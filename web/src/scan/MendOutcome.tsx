import { Button } from "antd";
import { useEffect } from "react";
import type { StepState } from "../api/build";
import { factsOf, type ScanChange } from "../api/facts";
import { useBench } from "../job/context";
import { count, length } from "../units";
import { usePointed } from "../view/pointed";
import { defectTitle } from "./defects";
import { MovedFacts } from "./MovedFacts";
import { useScanMoved } from "./useScanMoved";

/** What a mend did: facets before and after, the largest movement, each operation, and a map of it. */
export function MendOutcome({ state, facts: f }: { state: StepState; facts: ScanChange }) {
  const { job, unit, scanId } = useBench();
  const set = usePointed((s) => s.set);
  const { moved, measure, clear } = useScanMoved();
  const mended = factsOf(f, "mend");
  const merged = factsOf(f, "merge");
  const done = mended?.done ?? [];
  // A mend promises that it moves little, or nothing; one sector, or the scan as it was before, is another mesh, of which that says nothing.
  const anew = f.moved === 0 && !mended;
  const counts = (of: Record<string, number>) =>
    Object.entries(of)
      .filter(([k]) => k !== "sliver")
      .map(([k, n]) => defectTitle(k, n))
      .join(", ") || "nothing";
  const steps = job.build.result?.steps ?? [];
  const at = steps.findIndex((s) => s.id === state.id);
  const before = steps[at - 1]?.scans?.[scanId] ?? job.build.result?.raw?.[scanId] ?? null;
  useEffect(() => () => set({ moved: null }), [set]);
  return (
    <div>
      <dl className="fact-list">
        <div>
          <dt>facets</dt>
          <dd>
            {count(f.facets_before)} → {count(f.facets)}
          </dd>
        </div>
        {!anew && (
          <div>
            <dt>largest movement</dt>
            <dd>{length(f.moved, unit, 1)}</dd>
          </div>
        )}
        {merged && (
          <div>
            <dt>overlap error, rms</dt>
            <dd>{length(merged.error, unit, 1)}</dd>
          </div>
        )}
      </dl>
      {mended && (
        <p className="small">
          <span className="quiet">before </span>
          {counts(mended.before)}
          <br />
          <span className="quiet">after </span>
          {counts(mended.after)}
        </p>
      )}
      {done.length > 0 && (
        <ol className="done">
          {done.map((d, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: an operation can come twice
            <li key={i}>
              {d.operation} <span className="figures">{count(d.count)}</span>
              <span className="quiet small">
                {" "}
                −{count(d.dropped)} +{count(d.added)} facets
                {d.moved > 0 ? `, moved ${length(d.moved, unit, 1)}` : ""}
              </span>
            </li>
          ))}
        </ol>
      )}
      {moved ? (
        <MovedFacts moved={moved} onClose={clear} />
      ) : (
        <div className="button-rows">
          <Button size="small" onClick={() => void measure(before, state.scans?.[scanId] ?? null)}>
            Map of what it changed
          </Button>
          <Button size="small" onClick={() => void measure(null, state.scans?.[scanId] ?? null)}>
            Against the raw scan
          </Button>
        </div>
      )}
    </div>
  );
}
