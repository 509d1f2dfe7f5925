import { CheckOutlined, CloseOutlined } from "@ant-design/icons";
import { Button, Tooltip } from "antd";
import { inU } from "../desk/facts";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { Stamp } from "../ui/Stamp";
import { usePointed } from "../view/pointed";
import { type Found, grouped, type Proposal } from "./facts";
import { useRegions } from "./store";
import { useProposals } from "./useProposals";

/** What the designer may have meant, by kind; each with what it costs in uncertainties. A click shows the regions it is about; nothing is
 * changed before it is agreed to. */
export function ProposalRows({ found }: { found: Found }) {
  const { unit } = useBench();
  const { chosen, set } = useRegions();
  const look = usePointed();
  const select = useTool((s) => s.select);
  const { agree, turnDown, agreed, intent } = useProposals();
  const down = new Set(found.rejected ?? []);
  const groups = grouped(found.proposals.map((p, at) => ({ at, p })).filter(({ at }) => !down.has(at)));
  const show = (p: Proposal, now: boolean) => {
    set({ chosen: now ? [] : p.regions });
    const missing = now ? undefined : p.missing[0];
    look.set({ marked: missing ? { point: missing, size: 6, facets: [] } : null });
  };
  return (
    <section className="desk-part" aria-label="What may have been meant">
      <h3>What may have been meant</h3>
      <p className="quiet small">
        Agreed ones hold the regions while all of them are fitted together again. The figure is what it costs, in
        standard uncertainties u.
        {intent && (
          <Button size="small" type="link" onClick={() => select(intent)}>
            {agreed.size} agreed
          </Button>
        )}
      </p>
      {groups.length === 0 && <p className="quiet small">Nothing stands out: no whole sizes, no common directions.</p>}
      {found.system === "inch" && unit !== "inch" && (
        <p className="above small">▲ The sizes are rounder in inches than in millimetres.</p>
      )}
      {groups.map((g) => {
        const open = g.rows.filter(({ p }) => !agreed.has(p.text) && p.demand);
        return (
          <details key={g.kind} open={g.rows.length <= 6}>
            <summary>
              {g.title} <span className="quiet">({g.rows.length})</span>
              {open.length > 1 && (
                <Button
                  size="small"
                  type="link"
                  onClick={(e) => {
                    e.preventDefault();
                    void agree(open.map((r) => r.at));
                  }}
                >
                  Agree to all {open.length}
                </Button>
              )}
            </summary>
            {g.rows.map(({ at, p }) => {
              const now = p.regions.length === chosen.length && p.regions.every((r) => chosen.includes(r));
              const { text, far } = inU(p.away);
              const isAgreed = agreed.has(p.text);
              return (
                <div key={at} className={`proposal-line${now ? " now" : ""}`}>
                  <button type="button" className="proposal-row" aria-pressed={now} onClick={() => show(p, now)}>
                    <span>
                      {p.text}
                      {p.missing.length > 0 && <b className="above"> ▲ one is missing</b>}
                    </span>
                    <span className={`figures ${far ? "above" : "quiet"}`}>{text.replace("+", "")}</span>
                  </button>
                  {isAgreed ? (
                    <Tooltip title="agreed">
                      <span>
                        <Stamp mark="intent" />
                      </span>
                    </Tooltip>
                  ) : (
                    <>
                      <Button
                        size="small"
                        type="text"
                        icon={<CheckOutlined />}
                        disabled={!p.demand}
                        title="agree: hold the regions to it"
                        aria-label={`Agree: ${p.text}`}
                        onClick={() => void agree([at])}
                      />
                      <Button
                        size="small"
                        type="text"
                        icon={<CloseOutlined />}
                        title="turn it down"
                        aria-label={`Turn down: ${p.text}`}
                        onClick={() => void turnDown([at])}
                      />
                    </>
                  )}
                </div>
              );
            })}
          </details>
        );
      })}
      {down.size > 0 && (
        <p className="quiet small">
          {down.size} turned down{" "}
          <Button size="small" type="link" onClick={() => void turnDown([...down], true)}>
            Offer them again
          </Button>
        </p>
      )}
    </section>
  );
}
