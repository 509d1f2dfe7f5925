import { MoreOutlined } from "@ant-design/icons";
import { Button, Checkbox, Collapse, Dropdown, InputNumber, Switch } from "antd";
import type { SectionOut } from "../api/client";
import { ProblemError } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { LengthInput } from "../ui/LengthInput";
import { ProblemNote } from "../ui/ProblemNote";
import { area, length } from "../units";
import { ValueField } from "../values/ValueField";
import { edited, type PieceEdit, structureOf } from "./pieces";
import { countKinds, pieceKey, toggled } from "./taken";
import "./section.css";
import { AlongFace } from "./AlongFace";
import { PutRight } from "./PutRight";
import { Several } from "./Several";
import { TradeOff } from "./TradeOff";
import { WhereToCut } from "./WhereToCut";

interface Props {
  fitted: SectionOut | undefined;
  problem: Error | null;
  busy: boolean;
  onTake: () => void;
}

const TITLES = { section: "Section", radial: "Turned profile", silhouette: "Silhouette" };
const WORDS = {
  section:
    "Drag the arrow, or type how far the plane lies from where it starts; the two knobs turn it. Negative goes into the material.",
  radial: "The mean of half-sections all around the axis, as a profile beside it.",
  silhouette:
    "The border of the shadow that the scan throws along the plane's normal, with the holes one can look through.",
};
const EDITS: { key: PieceEdit; label: string }[] = [
  { key: "line", label: "Make it a line" },
  { key: "arc", label: "Make it an arc" },
  { key: "ellipse", label: "Make it an ellipse" },
  { key: "free", label: "Make it a free curve" },
  { key: "join", label: "Join with the next" },
  { key: "part", label: "Part in the middle" },
  { key: "full", label: "Close it all the way round" },
];

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
  const unexplained = fitted?.loops.filter((l) => l.explained === false).length ?? 0;
  const taken = pieces.length - draft.left.length;
  const ids = Object.fromEntries(
    fitted?.loops.flatMap((l, i) => l.pieces.map((_, j) => pieceKey(i, j))).map((k, n) => [k, `e${n + 1}`]) ?? [],
  );
  const change = (loop: number, piece: number, what: PieceEdit) => {
    if (fitted) set({ edited: edited(draft.edited ?? structureOf(fitted), loop, piece, what), left: [] });
  };
  return (
    <section className="sheet" aria-label="Section">
      <h2>{TITLES[draft.source]}</h2>
      <p className="quiet">{WORDS[draft.source]}</p>
      {draft.source !== "radial" && (
        <ValueField
          label="Offset"
          shown={{ text: draft.offset, mark: draft.mark ?? "assumed", means: fittedAt, note: draft.note ?? "" }}
          of={{ kind: "outline", params: draft.region ? { plane: { id: draft.region } } : {}, place: "offset" }}
          onType={(offset) => set({ offset, mark: "assumed", note: "", left: [], edited: null })}
          onCommit={(v) =>
            v && set({ offset: v.text, mark: v.mark ?? "assumed", note: v.note ?? "", left: [], edited: null })
          }
        />
      )}
      {fitted?.along && <AlongFace along={fitted.along} />}
      {draft.source === "section" && (
        <>
          <div className="value-line turns">
            <span className="quiet">turned</span>
            {(["turnU", "turnV"] as const).map((k) => (
              <InputNumber
                key={k}
                size="small"
                aria-label={k === "turnU" ? "Turned about its first axis" : "Turned about its second axis"}
                value={draft[k]}
                min={-180}
                max={180}
                step={1}
                suffix="°"
                onChange={(v) => set({ [k]: v ?? 0, left: [], edited: null })}
                onKeyDown={(e) => e.stopPropagation()}
              />
            ))}
          </div>
          <div className="value-line gap">
            <Switch id="clip-view" size="small" checked={draft.clip} onChange={(clip) => set({ clip })} />
            <label htmlFor="clip-view">open the view at the plane</label>
          </div>
          <Several />
          <WhereToCut />
        </>
      )}
      {draft.source === "radial" && fitted?.runout != null && (
        <p className="figures">
          runout {length(fitted.runout, unit, 1)} <span className="quiet small">on 95 % of the profile</span>
        </p>
      )}
      <div className="field-label">Tolerance of the outline</div>
      <LengthInput
        label="Tolerance of the outline"
        value={draft.tolerance}
        placeholder={fitted ? length(fitted.tolerance, unit, 1) : ""}
        onCommit={(tolerance) => set({ tolerance, left: [], edited: null })}
      />
      {fitted && fitted.loops.length > 0 && draft.source === "section" ? (
        <TradeOff tolerance={fitted.tolerance} />
      ) : (
        <p className="quiet small">A larger tolerance explains the cut with fewer pieces.</p>
      )}
      {draft.edited && (
        <p className="quiet small">
          Pieces were changed by hand.{" "}
          <Button size="small" type="link" onClick={() => set({ edited: null, left: [] })}>
            Look for them again
          </Button>
        </p>
      )}
      {problem instanceof ProblemError && <ProblemNote problem={problem.problem} />}
      {busy && <p className="quiet">fitting the outline …</p>}
      {unexplained > 0 && (
        <p className="quiet">
          {unexplained === 1 ? "One loop was" : `${unexplained} loops were`} too much to explain in the time there is
          and {unexplained === 1 ? "stays" : "stay"} free. A larger tolerance, or another place, makes it quicker.
        </p>
      )}
      {fitted && fitted.loops.length === 0 && !fitted.along && (
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
                      <span className={`piece piece-${p.kind}`}>
                        {ids[pieceKey(i, j)]} {p.kind}
                      </span>
                    </Checkbox>
                    <span className="figures" title={p.ellipse ? "half-axes" : undefined}>
                      {p.radius
                        ? `R ${length(p.radius, unit)}`
                        : p.ellipse
                          ? `${length(p.ellipse[2], unit).replace(` ${unit}`, "")} × ${length(p.ellipse[3], unit)}`
                          : length(p.length, unit)}
                    </span>
                    <span
                      className={`figures ${p.rms > fitted.tolerance / 2 ? "above" : "quiet"}`}
                      title="rms of the scan about this piece"
                    >
                      {length(p.rms, unit, 1).replace(` ${unit}`, "")}
                    </span>
                    <Dropdown
                      trigger={["click"]}
                      menu={{
                        items: EDITS.filter(
                          (e) =>
                            e.key !== p.kind &&
                            (e.key !== "full" ||
                              ((p.kind === "arc" || p.kind === "ellipse") && loop.pieces.length === 1 && !loop.closed)),
                        ).map((e) => ({
                          ...e,
                          onClick: () => change(i, j, e.key),
                        })),
                      }}
                    >
                      <Button
                        size="small"
                        type="text"
                        icon={<MoreOutlined />}
                        aria-label={`Change piece ${j + 1} of loop ${i + 1}`}
                      />
                    </Dropdown>
                  </div>
                )),
              };
            })}
          />
        </>
      )}
      {fitted && fitted.loops.length > 0 && <PutRight fitted={fitted} />}
      <div className="sheet-actions">
        <Button type="primary" disabled={!fitted || taken < 1} onClick={onTake}>
          Take as a sketch <kbd>Enter</kbd>
        </Button>
        <Button onClick={close}>Put away</Button>
      </div>
    </section>
  );
}
