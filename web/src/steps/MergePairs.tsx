import { Button, Select } from "antd";
import type { Vec3 } from "../api/build";
import type { FactsOf } from "../api/facts";
import { useBench } from "../job/context";
import { useSeen } from "../job/seen";
import { useArmed } from "../pick/armed";
import { length, share } from "../units";
import { rawPoint, STILL } from "../view/pose";

interface Pair {
  here: Vec3;
  there: Vec3;
}
export interface Other {
  scan: { id: string };
  pairs: Pair[];
}
interface Props {
  into: string;
  others: Other[];
  /** How each was laid, once the step is built. */
  rows: FactsOf<"merge">["scans"] | undefined;
  onChange: (others: Other[]) => void;
}

/** The scans that are merged, and spots that are on both; without spots their places are searched for. */
export function MergePairs({ into, others, rows, onChange }: Props) {
  const { job, unit } = useBench();
  const arm = useArmed((s) => s.arm);
  const set = useSeen((s) => s.set);
  const result = job.build.result;
  const scans = job.recipe.evidence.filter((e) => e.kind === "scan");
  const name = (id: string) => scans.find((s) => s.id === id)?.name ?? "scan";
  const free = scans.filter((s) => s.id !== into && !others.some((o) => o.scan.id === s.id));
  const poseOf = (id: string) => result?.poses?.[id] ?? STILL;
  const spot = (k: number) => {
    const other = others[k]!.scan.id;
    set({ scan: into });
    arm({
      hint: `Click a spot on ${name(into)}`,
      onFacet: (_, at) => {
        const here = rawPoint(poseOf(into), at);
        set({ scan: other });
        arm({
          hint: `Click the same spot on ${name(other)}`,
          onFacet: (_f, there) => {
            arm(null);
            set({ scan: into });
            const pair = { here, there: rawPoint(poseOf(other), there) };
            onChange(others.map((o, i) => (i === k ? { ...o, pairs: [...o.pairs, pair] } : o)));
          },
        });
      },
    });
  };
  return (
    <div className="merge-pairs">
      {others.map((o, k) => (
        <div key={o.scan.id} className="merge-other">
          <div className="value-line">
            <b className="step-name">{name(o.scan.id)}</b>
            <Button size="small" type="text" onClick={() => onChange(others.filter((_, i) => i !== k))}>
              Take out
            </Button>
          </div>
          <div className="value-line">
            <span className="quiet small">
              {o.pairs.length === 0
                ? "its place is searched for"
                : o.pairs.length < 3
                  ? `${o.pairs.length} of 3 spots; its place is searched for`
                  : `${o.pairs.length} spots on both`}
            </span>
            <Button size="small" onClick={() => spot(k)}>
              Add a spot
            </Button>
          </div>
          {rows?.[k] && (
            <dl className="fact-list">
              <div>
                <dt>overlap</dt>
                <dd>{share(rows[k].overlap)}</dd>
              </div>
              <div>
                <dt>overlap error, rms</dt>
                <dd>{length(rows[k].error, unit, 1)}</dd>
              </div>
            </dl>
          )}
        </div>
      ))}
      {free.length > 0 && (
        <Select
          aria-label="Scan to add"
          className="wide"
          value={null}
          placeholder="add a scan"
          options={free.map((s) => ({ value: s.id, label: s.name }))}
          onChange={(id: string) => onChange([...others, { scan: { id }, pairs: [] }])}
        />
      )}
    </div>
  );
}
