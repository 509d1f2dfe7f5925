import { MoreOutlined } from "@ant-design/icons";
import { Button, Checkbox, Collapse, Dropdown } from "antd";
import type { SectionOut } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { area, length } from "../units";
import { edited, type PieceEdit, structureOf } from "./pieces";
import { countKinds, leftOut, pieceKey, toggled } from "./taken";

const EDITS: { key: PieceEdit; label: string }[] = [
  { key: "line", label: "Make it a line" },
  { key: "arc", label: "Make it an arc" },
  { key: "ellipse", label: "Make it an ellipse" },
  { key: "free", label: "Make it a free curve" },
  { key: "join", label: "Join with the next" },
  { key: "part", label: "Split in the middle" },
  { key: "full", label: "Close it all the way round" },
];

/** The loops of the cut, each with its pieces: which of them are taken, and what a piece is to be. */
export function LoopList({ fitted }: { fitted: SectionOut }) {
  const { unit } = useBench();
  const draft = useTool((s) => s.section)!;
  const set = useTool((s) => s.setSection);
  const left = leftOut(fitted, draft);
  const ids = Object.fromEntries(
    fitted.loops.flatMap((l, i) => l.pieces.map((_, j) => pieceKey(i, j))).map((k, n) => [k, `e${n + 1}`]),
  );
  const change = (loop: number, piece: number, what: PieceEdit) =>
    set({ edited: edited(draft.edited ?? structureOf(fitted), loop, piece, what), left: null });
  return (
    <Collapse
      size="small"
      className="loops"
      items={fitted.loops.map((loop, i) => {
        const keys = loop.pieces.map((_, j) => pieceKey(i, j));
        const out = keys.filter((k) => left.includes(k)).length;
        return {
          key: i,
          label: (
            <span className="loop-row">
              <Checkbox
                aria-label={`Take loop ${i + 1}`}
                checked={out === 0}
                indeterminate={out > 0 && out < keys.length}
                onClick={(e) => e.stopPropagation()}
                onChange={(e) => set({ left: toggled(left, keys, e.target.checked) })}
              />
              <span className="loop-name">{countKinds(loop.pieces)}</span>
              <span className="figures">{loop.closed ? area(loop.area, unit) : "open"}</span>
            </span>
          ),
          children: loop.pieces.map((p, j) => (
            <div className="piece-row" key={keys[j]}>
              <Checkbox
                checked={!left.includes(keys[j]!)}
                onChange={(e) => set({ left: toggled(left, [keys[j]!], e.target.checked) })}
              >
                <span className={`piece piece-${p.kind}`}>
                  {ids[pieceKey(i, j)]} {p.kind}
                  {p.assumed ? " · assumed" : p.unseen?.length ? " · partly assumed" : ""}
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
  );
}
