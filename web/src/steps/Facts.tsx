import type { StepFacts } from "../api/build";
import { useBench } from "../job/context";
import { factRows } from "./factRows";

/** What a step measured, in words and figures. */
export function Facts({ facts }: { facts: StepFacts | null }) {
  const { unit } = useBench();
  const rows = factRows(facts, unit);
  if (rows.length === 0) return null;
  return (
    <dl className="fact-list">
      {rows.map(([name, value]) => (
        <div key={name}>
          <dt>{name}</dt>
          <dd>{value}</dd>
        </div>
      ))}
    </dl>
  );
}
