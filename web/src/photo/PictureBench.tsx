import { Button, Checkbox } from "antd";
import type { MarkKind, Picture } from "../api/client";
import { MarkNote } from "./MarkNote";
import { MarkRows } from "./MarkRows";
import { KINDS, MEASURES } from "./marks";
import { PictureView } from "./PictureView";
import { ScaleRows } from "./ScaleRows";
import { Straighten } from "./Straighten";
import { type Point, usePhoto } from "./store";
import { usePicture } from "./usePicture";

/** One picture: the view, and beside it how it is straightened, its scale, and what is measured in it. */
export function PictureBench({ picture }: { picture: Picture }) {
  const { tool, points, bends, round, snap, count, use, set } = usePhoto();
  const at = usePicture(picture);
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
  return (
    <div className="photo-split">
      <div className="photo-view">
        <PictureView picture={picture} facts={at.facts} onPoint={point} onStroke={(p) => void finish(p)} />
        <MarkNote at={at} onFinish={(p, closed) => void finish(p, closed)} />
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
