import { Button, Checkbox, Collapse } from "antd";
import type { SectionOut } from "../api/client";
import { ProblemError } from "../api/client";
import { LengthInput } from "../ui/LengthInput";
import { ProblemNote } from "../ui/ProblemNote";
import { area, length } from "../units";
import { useBench } from "./context";
import { useTool } from "./stores";
import { countKinds, pieceKey, toggled } from "./taken";
import { ValueField } from "./ValueField";

interface Props {
  fitted: SectionOut | undefined;
  problem: Error | null;
  busy: boolean;
  onTake: () => void;
}

/** Where the section plane lies, how few pieces explain the cut, and which of them are taken. */
export function SectionSheet({ fitted, problem, busy, onTake }: Props) {
  const { unit } = useBench();
  const draft = useTool((s) => s.section)!;
  const set = useTool((s) => s.setSection);
  const close = useTool((s) => s.close);
  const pieces = fitted?.loops.flatMap((l) => l.pieces) ?? [];
  // A formula is only known here by where the cut came to lie.
  const fittedAt =
    fitted && /[a-z_]{3,}/i.test(draft.offset.replace(/inch/g, "")) ? length(fitted.offset_mm, unit, 1) : "";
  const taken = pieces.length - draft.left.length;
  return (
    <section className="sheet" aria-label="Section">
      <h2>Section</h2>
      <p className="quiet">
        Drag the arrow, or type how far the plane lies from the region. Negative goes into the material.
      </p>
      <ValueField
        label="Offset"
        shown={{ text: draft.offset, mark: draft.mark ?? "assumed", means: fittedAt, note: draft.note ?? "" }}
        of={{ kind: "outline", params: { plane: { id: draft.region } }, place: "offset" }}
        onType={(offset) => set({ offset, mark: "assumed", note: "", left: [] })}
        onCommit={(v) => v && set({ offset: v.text, mark: v.mark ?? "assumed", note: v.note ?? "", left: [] })}
      />
      <div className="field-label">Tolerance of the outline</div>
      <LengthInput
        label="Tolerance of the outline"
        value={draft.tolerance}
        placeholder={fitted ? length(fitted.tolerance, unit, 1) : ""}
        onCommit={(tolerance) => set({ tolerance, left: [] })}
      />
      <p className="quiet small">A larger tolerance explains the cut with fewer pieces.</p>
      {problem instanceof ProblemError && <ProblemNote problem={problem.problem} />}
      {busy && <p className="quiet">fitting the outline …</p>}
      {fitted && fitted.loops.length === 0 && (
        <p className="quiet">The plane misses the scan here. Move it back into the part.</p>
      )}
      {fitted && fitted.loops.length > 0 && (
        <>
          <div className="field-label">
            {fitted.loops.length} {fitted.loops.length === 1 ? "loop" : "loops"}: {countKinds(pieces)}
          </div>
          <Collapse
            size="small"
            className="loops"
            items={fitted.loops.map((loop, i) => {
              const keys = loop.pieces.map((_, j) => pieceKey(i, j));
              const out = keys.filter((k) => draft.left.includes(k)).length;
              return {
                key: i,
                label: (
                  <span className="loop-row">
                    <Checkbox
                      aria-label={`Take loop ${i + 1}`}
                      checked={out === 0}
                      indeterminate={out > 0 && out < keys.length}
                      onClick={(e) => e.stopPropagation()}
                      onChange={(e) => set({ left: toggled(draft.left, keys, e.target.checked) })}
                    />
                    <span className="loop-name">{countKinds(loop.pieces)}</span>
                    <span className="figures">{loop.closed ? area(loop.area, unit) : "open"}</span>
                  </span>
                ),
                children: loop.pieces.map((p, j) => (
                  <div className="piece-row" key={keys[j]}>
                    <Checkbox
                      checked={!draft.left.includes(keys[j]!)}
                      onChange={(e) => set({ left: toggled(draft.left, [keys[j]!], e.target.checked) })}
                    >
                      <span className={`piece piece-${p.kind}`}>{p.kind}</span>
                    </Checkbox>
                    <span className="figures">{p.radius ? `R ${length(p.radius, unit)}` : length(p.length, unit)}</span>
                  </div>
                )),
              };
            })}
          />
        </>
      )}
      <div className="sheet-actions">
        <Button type="primary" disabled={!fitted || taken < 1} onClick={onTake}>
          Take as a sketch <kbd>Enter</kbd>
        </Button>
        <Button onClick={close}>Put away</Button>
      </div>
    </section>
  );
}
