import { useBench } from "../job/context";
import { bare, inU, ownUnit, type ReadingFacts } from "./facts";

/** Ways of measuring side by side, before their takes are pooled. Nothing while there is only one. */
export function MethodRows({ facts }: { facts: ReadingFacts | undefined }) {
  const { unit } = useBench();
  if (!facts || facts.methods.length < 2) return null;
  return (
    <div className="methods">
      {facts.methods.map((m) => {
        const { text, far } = inU(m.apart);
        return (
          <div className="near-row figures" key={m.method}>
            <span>
              {m.method} · {m.n} {m.n === 1 ? "take" : "takes"}
            </span>
            <span>{bare(m.mean, ownUnit(facts, unit))}</span>
            <span className={far ? "above" : "quiet"}>{m.apart === null ? "" : `${text} apart`}</span>
          </div>
        );
      })}
      {!facts.agree && (
        <p className="above small">
          ▲ These ways do not measure the same thing. Strike out what is wrong, or keep them as two readings.
        </p>
      )}
    </div>
  );
}
