import { Button } from "antd";
import type { Desk, Reading } from "../api/client";
import { useBench } from "../job/context";
import { bare, inU, ownUnit, type ReadingFacts } from "./facts";

interface Props {
  reading: Reading;
  facts: ReadingFacts | undefined;
  near: Desk["standards"][string];
}

/** Standards that a reading lies near, to take as a value of the job. */
export function MeantAs({ reading: r, facts, near }: Props) {
  const { job, unit, edit } = useBench();
  const own = ownUnit(facts, unit);
  const takeStandard = (label: string, text: string) => {
    const used = new Set([...job.recipe.evidence, ...(job.recipe.values ?? [])].map((x) => x.name));
    const base = `${r.name}_nominal`;
    const name = used.has(base) ? `${base}_${used.size}` : base;
    const value = { text, mark: "standard" as const, note: label };
    return edit({ op: "set-value", id: crypto.randomUUID(), name, dimension: "length", value, note: label });
  };
  if (near.length === 0) return null;
  return (
    <>
      <div className="field-label">What it may have been meant as</div>
      {near.slice(0, 5).map((s) => {
        const { text, far } = inU(s.away);
        return (
          <div className="near-row near-take figures" key={s.label}>
            <span>{s.label}</span>
            <span>{bare(s.value, own)}</span>
            <span className={far ? "quiet" : "below"}>{s.difference === 0 ? "inside the limits" : text}</span>
            <Button
              size="small"
              type="text"
              aria-label={`Take ${s.label}`}
              onClick={() => void takeStandard(s.label, s.text)}
            >
              Take
            </Button>
          </div>
        );
      })}
    </>
  );
}
