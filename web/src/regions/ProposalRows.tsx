import { useBench } from "../bench/context";
import { inU } from "../desk/facts";
import { type Found, grouped } from "./facts";
import { useRegions } from "./store";

/** What the designer may have meant, by kind; each with what it costs in uncertainties. A click shows the regions it is about. */
export function ProposalRows({ found }: { found: Found }) {
  const { unit } = useBench();
  const { chosen, set } = useRegions();
  const groups = grouped(found.proposals);
  return (
    <section className="desk-part" aria-label="What may have been meant">
      <h3>What may have been meant</h3>
      {groups.length === 0 && <p className="quiet small">Nothing stands out: no round sizes, no common directions.</p>}
      {found.system === "inch" && unit !== "inch" && (
        <p className="above small">▲ The sizes are rounder in inches than in millimetres.</p>
      )}
      {groups.map((g) => (
        <details key={g.kind} open={g.rows.length <= 6}>
          <summary>
            {g.title} <span className="quiet">({g.rows.length})</span>
          </summary>
          {g.rows.map(({ at, p }) => {
            const now = p.regions.length === chosen.length && p.regions.every((r) => chosen.includes(r));
            const { text, far } = inU(p.away);
            return (
              <button
                type="button"
                key={at}
                className={`proposal-row${now ? " now" : ""}`}
                aria-pressed={now}
                onClick={() => set({ chosen: now ? [] : p.regions })}
              >
                <span>
                  {p.text}
                  {p.missing.length > 0 && <b className="above"> ▲ one is missing</b>}
                </span>
                <span className={`figures ${far ? "above" : "quiet"}`}>{text.replace("+", "")}</span>
              </button>
            );
          })}
        </details>
      ))}
    </section>
  );
}
