import { Button, Checkbox, Segmented } from "antd";
import { useState } from "react";
import { useBench } from "../job/context";
import { ProblemNote } from "../ui/ProblemNote";
import { length, MM_PER, type Unit } from "../units";
import { goTo } from "../view/stage";
import { type Act, type Frame, inSpace } from "./drawing";
import { type FlatChoice, type FlatFile, layersTaken, type Told, toldOnce } from "./flatFile";
import "./files.css";

interface Props {
  read: FlatFile;
  choice: FlatChoice;
  busy: boolean;
  frame: Frame | null;
  onChoose: (part: Partial<FlatChoice>) => void;
  onTake: (act: Act) => Promise<void>;
  onLeave: () => void;
}

const WITHIN_MM = 0.05; // relations are looked for that are off by no more

/** What is in the file and what of it comes along: its unit, layers, blocks, and what was left out with its place. */
export function FileSheet({ read, choice, busy, frame, onChoose, onTake, onLeave }: Props) {
  const { unit } = useBench();
  const [relate, setRelate] = useState(true);
  const known = read.unit_mm !== null;
  const per = read.unit_mm ?? MM_PER[read.likely];
  const [wide, high] = read.size;
  const taken = layersTaken(read, choice);
  const layer = (name: string, on: boolean) =>
    onChoose({ layers: on ? [...taken, name] : taken.filter((n) => n !== name) });
  const take = () => read.act && void onTake({ ...read.act, within: relate && read.pieces ? WITHIN_MM : null });
  return (
    <div className="file-sheet" data-file={busy ? "reading" : "read"}>
      <p className="small">
        <b>{read.name}</b>: {read.pieces.toLocaleString("en")} {read.pieces === 1 ? "piece" : "pieces"}
        {read.words > 0 && `, ${read.words} ${read.words === 1 ? "text" : "texts"}`}
        {read.strokes > 0 &&
          `, ${read.strokes.toLocaleString("en")} ${read.strokes === 1 ? "line" : "lines"} to lie under`}
        .
      </p>
      <div className="small">
        {known || read.said ? "Its unit" : "It does not say its unit. Which is it?"}
        <Segmented<Unit | "none">
          size="small"
          aria-label="Unit of the file"
          value={choice.unit ?? unitOf(read.unit_mm)}
          onChange={(u) => u !== "none" && onChoose({ unit: u })}
          options={[
            ...(choice.unit || unitOf(read.unit_mm) !== "none" ? [] : [{ label: "?", value: "none" as const }]),
            ...(Object.keys(MM_PER) as Unit[]).map((u) => ({ label: u, value: u })),
          ]}
        />
      </div>
      <p className="quiet small" data-said="reach">
        {length(wide * per, unit)} × {length(high * per, unit)} {known ? "large" : `large, if it is in ${read.likely}`}
      </p>
      <fieldset className="file-layers" aria-label="Layers">
        {read.layers.map((n) => (
          <Checkbox
            key={n.name}
            checked={taken.includes(n.name)}
            disabled={taken.length === 1 && taken.includes(n.name)}
            onChange={(e) => layer(n.name, e.target.checked)}
          >
            {n.name || "no layer"} <span className="quiet">{n.pieces.toLocaleString("en")}</span>
            {n.hidden && <span className="quiet"> switched off</span>}
          </Checkbox>
        ))}
      </fieldset>
      <Checkbox checked={choice.blocks} onChange={(e) => onChoose({ blocks: e.target.checked })}>
        Blocks become pieces, too
      </Checkbox>
      <Checkbox checked={choice.under} onChange={(e) => onChoose({ under: e.target.checked })}>
        All of it only lies under the sketch
      </Checkbox>
      <Checkbox checked={choice.toZero} onChange={(e) => onChoose({ toZero: e.target.checked })}>
        Its lower left corner at the sketch's zero
      </Checkbox>
      {!choice.under && (
        <Checkbox checked={relate} onChange={(e) => setRelate(e.target.checked)}>
          With the relations that nearly hold
        </Checkbox>
      )}
      <LeftOut rows={toldOnce(read.left_out)} frame={frame} />
      {read.refused && <ProblemNote problem={read.refused} />}
      <Button size="small" type="primary" disabled={!read.act || !known || busy} onClick={take}>
        {known ? "Put it in" : "Choose its unit first"}
      </Button>{" "}
      <Button size="small" onClick={onLeave}>
        Cancel
      </Button>
    </div>
  );
}

function unitOf(mm: number | null): Unit | "none" {
  return (Object.keys(MM_PER) as Unit[]).find((u) => MM_PER[u] === mm) ?? "none";
}

function LeftOut({ rows, frame }: { rows: Told[]; frame: Frame | null }) {
  if (!rows.length) return null;
  const all = rows.reduce((n, r) => n + r.count, 0);
  return (
    <details className="fold left-out" open={rows.length <= 4}>
      <summary>{all.toLocaleString("en")} left out</summary>
      <ul className="small">
        {rows.map((r) => (
          <li key={`${r.kind} ${r.why}`}>
            {r.count > 1 && `${r.count.toLocaleString("en")} × `}
            {r.kind.toLowerCase()}: {r.why}{" "}
            {r.at && frame && (
              <button type="button" className="link" onClick={() => goTo(inSpace(frame, r.at!))}>
                show
              </button>
            )}
          </li>
        ))}
      </ul>
    </details>
  );
}
