import { Checkbox, Select } from "antd";
import type { SectionOut } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { length } from "../units";
import type { GapHow } from "./draft";

const WAYS: Record<GapHow, string> = {
  "one piece": "goes on",
  meet: "both meet",
  square: "square corner",
  arc: "touching arc",
  line: "straight line",
  open: "stays open",
};

const half = (a: number[], b: number[]): [number, number] => [(a[0]! + b[0]!) / 2, (a[1]! + b[1]!) / 2];

const Unscanned = () => <p className="quiet small">What is dotted was not scanned: a mend of the scan has made it.</p>;

/** Gaps of the scan that the section's loops are closed over: what each assumes, and another way to bridge it. */
export function Gaps({ fitted }: { fitted: SectionOut }) {
  const { unit, scanId } = useBench();
  const draft = useTool((s) => s.section);
  const recut = useTool((s) => s.recut);
  const openDraft = useTool((s) => s.openDraft);
  if (!draft) return null;
  const gaps = fitted.gaps ?? [];
  const open = fitted.loops.some((l) => !l.closed);
  const left = draft.wishes.filter((w) => w.how === "open");
  const made = fitted.loops.some((l) => !l.bridged && l.pieces.some((p) => p.unseen?.length));
  if (draft.source !== "section" || draft.edited) return null;
  if (!gaps.length && !left.length && !open) return made ? <Unscanned /> : null;
  const assumed = gaps.reduce((sum, g) => sum + g.length, 0);
  const all = fitted.loops.reduce((sum, l) => sum + l.length, 0);
  const wish = (near: [number, number], how: GapHow) =>
    recut({ wishes: [...draft.wishes.filter((w) => w.near[0] !== near[0] || w.near[1] !== near[1]), { near, how }] });
  return (
    <div className="gaps">
      <Checkbox checked={draft.bridge} onChange={(e) => recut({ bridge: e.target.checked })}>
        Bridge gaps in the scan
      </Checkbox>
      {gaps.length > 0 && (
        <p className="quiet small">
          {gaps.length === 1 ? "One gap is" : `${gaps.length} gaps are`} bridged: {length(assumed, unit)} of the outline
          ({Math.round((100 * assumed) / Math.max(all, 1e-9))} %) {"is assumed, drawn dotted."}
        </p>
      )}
      {made && <Unscanned />}
      {gaps.map((g, i) => (
        <div className="piece-row" key={`${g.middle}`}>
          <span className="figures gap-name">
            Gap {i + 1} · {length(g.length, unit)}
          </span>
          <Select
            size="small"
            popupMatchSelectWidth={false}
            aria-label={`How gap ${i + 1} is bridged`}
            value={g.how as GapHow}
            options={[...g.options, "open" as const].map((how) => ({ value: how, label: WAYS[how] }))}
            onChange={(how) => wish(half(g.start, g.end), how)}
          />
        </div>
      ))}
      {draft.bridge && open && !left.length && (
        <p className="quiet small">What is still open found nothing to be joined to: try a place beside it.</p>
      )}
      {(gaps.length > 0 || open) && (
        <button
          type="button"
          className="link"
          onClick={() => openDraft({ kind: "counterpart", params: { scan: { id: scanId }, by: "mirror" } })}
        >
          Fill from the side that is alike …
        </button>
      )}
      {left.length > 0 && (
        <div className="piece-row">
          <span>{left.length} left open</span>
          <button type="button" className="link" onClick={() => recut({ wishes: [] })}>
            Propose again
          </button>
        </div>
      )}
    </div>
  );
}
