import { Button, Checkbox, Input, InputNumber, Segmented, Select } from "antd";
import { useState } from "react";
import type { MarkKind, Picture } from "../api/client";
import { isReading } from "../desk/facts";
import { useBench } from "../job/context";
import { DimensionForm } from "./DimensionForm";
import { MarkRows } from "./MarkRows";
import { KINDS, MEASURES, traceHint } from "./marks";
import { PictureView } from "./PictureView";
import { ScaleRows } from "./ScaleRows";
import { Straighten } from "./Straighten";
import { type Point, usePhoto } from "./store";
import { usePicture } from "./usePicture";

/** One picture: the view, and beside it how it is straightened, its scale, and what is measured in it. */
export function PictureBench({ picture }: { picture: Picture }) {
  const { job } = useBench();
  const { tool, points, bends, round, snap, count, use, set } = usePhoto();
  const at = usePicture(picture);
  const readings = job.recipe.evidence.filter(isReading);
  const [text, setText] = useState("");
  const kind = tool === "look" || tool === "corners" ? null : KINDS[tool];
  const finish = async (p: Point[], closed = false) => {
    if (tool === "scale" || tool === "check") return; // the length is typed first
    if (await at.mark(tool as MarkKind, p, tool === "repeat" ? { count } : tool === "trace" ? { closed, bends } : {}))
      use(tool);
  };
  const point = (p: Point) => {
    if (tool === "corners" || !kind) return;
    const next = [...(kind.points !== null && points.length >= kind.points ? [] : points), p];
    // A round side takes two clicks: a point on its arc, then the corner it ends in.
    if (tool === "trace" && round) set({ points: next, bends: [...bends, next.length - 1], round: false });
    else set({ points: next });
    if (kind.points === next.length && tool !== "dimension" && tool !== "pin") void finish(next);
  };
  const keepLength = async () => {
    if ((tool === "scale" || tool === "check") && (await at.known(tool, points, text))) {
      setText("");
      use("look");
    }
  };
  const more = tool === "count" || tool === "trace"; // a stroke ends where the pointer is let go
  return (
    <div className="photo-split">
      <div className="photo-view">
        <PictureView picture={picture} facts={at.facts} onPoint={point} onStroke={(p) => void finish(p)} />
        {kind && (
          <div className="view-note armed" role="status">
            {tool === "trace" ? traceHint(points.length, bends, round) : kind.hint}
            {tool === "repeat" && (
              <InputNumber
                size="small"
                aria-label="How many repeats"
                min={2}
                max={500}
                value={count}
                suffix="of them"
                onKeyDown={(e) => e.stopPropagation()}
                onChange={(n) => n && set({ count: n })}
              />
            )}
            {(tool === "scale" || tool === "check") && points.length === 2 && (
              <Input
                size="small"
                autoFocus
                aria-label="What it is long"
                placeholder="120 mm, or a reading's name"
                value={text}
                onChange={(e) => setText(e.target.value)}
                onKeyDown={(e) => {
                  e.stopPropagation();
                  if (e.key === "Enter") void keepLength();
                }}
              />
            )}
            {tool === "trace" && points.length > 0 && (
              <Segmented
                size="small"
                aria-label="Next side"
                disabled={bends.includes(points.length - 1)}
                value={round ? "round" : "straight"}
                options={[
                  { value: "straight", label: "next side straight" },
                  { value: "round", label: "round" },
                ]}
                onChange={(v) => set({ round: v === "round" })}
              />
            )}
            {more && points.length > 1 && (
              <Button
                size="small"
                type="primary"
                disabled={tool === "trace" && (round || bends.includes(points.length - 1))}
                onClick={() => void finish(points)}
              >
                Done
              </Button>
            )}
            {tool === "trace" && points.length > 2 && (
              <Button size="small" onClick={() => void finish(points, true)}>
                Close it
              </Button>
            )}
            {tool === "pin" && points.length === 1 && (
              <Select
                size="small"
                autoFocus
                aria-label="Reading to pin here"
                placeholder="which reading"
                className="pin-choice"
                options={readings.map((r) => ({ value: r.id, label: r.name }))}
                onChange={(id: string) => void at.pin(id, points[0]!).then((ok) => ok && use("pin"))}
              />
            )}
            {tool === "dimension" && points.length === 1 && <DimensionForm at={points[0]!} onKeep={at.dimension} />}
            <Button size="small" type="link" onClick={() => use("look")}>
              Stop
            </Button>
          </div>
        )}
      </div>
      <aside className="desk-side photo-side">
        <Straighten picture={picture} snap={at.snap} />
        <ScaleRows picture={picture} facts={at.facts} />
        <section className="desk-card" aria-label="Measure">
          <h2>Measure</h2>
          <div className="button-rows">
            {MEASURES.map((k) => (
              <Button
                key={k}
                size="small"
                type={tool === k ? "primary" : "default"}
                onClick={() => use(tool === k ? "look" : k)}
              >
                {KINDS[k].title}
              </Button>
            ))}
            <Button size="small" type={tool === "stroke" ? "primary" : "default"} onClick={() => use("stroke")}>
              Pen
            </Button>
            <Button size="small" type={tool === "pin" ? "primary" : "default"} onClick={() => use("pin")}>
              Pin a reading
            </Button>
            <Button size="small" type={tool === "dimension" ? "primary" : "default"} onClick={() => use("dimension")}>
              Stated dimension
            </Button>
          </div>
          <Checkbox checked={snap} onChange={(e) => set({ snap: e.target.checked })}>
            onto the edges
          </Checkbox>
        </section>
        <MarkRows picture={picture} facts={at.facts} onReading={at.toReading} />
      </aside>
    </div>
  );
}
