import { Button, Input, InputNumber, Segmented, Select } from "antd";
import { useState } from "react";
import { isReading } from "../desk/facts";
import { useBench } from "../job/context";
import { DimensionForm } from "./DimensionForm";
import { KINDS, traceHint } from "./marks";
import { type Point, usePhoto } from "./store";
import type { usePicture } from "./usePicture";

interface Props {
  at: ReturnType<typeof usePicture>;
  onFinish: (points: Point[], closed?: boolean) => void;
}

/** What the next click in the picture does, and what the mark still needs: a length, a count, the reading it stands for. */
export function MarkNote({ at, onFinish }: Props) {
  const { job } = useBench();
  const { tool, points, bends, round, count, use, set } = usePhoto();
  const [text, setText] = useState("");
  const readings = job.recipe.evidence.filter(isReading);
  if (tool === "look" || tool === "corners") return null;
  const kind = KINDS[tool];
  const keepLength = async () => {
    if ((tool === "scale" || tool === "check") && (await at.known(tool, points, text))) {
      setText("");
      use("look");
    }
  };
  const more = tool === "count" || tool === "trace"; // a stroke ends where the pointer is let go
  return (
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
            { value: "round", label: "arc" },
          ]}
          onChange={(v) => set({ round: v === "round" })}
        />
      )}
      {more && points.length > 1 && (
        <Button
          size="small"
          type="primary"
          disabled={tool === "trace" && (round || bends.includes(points.length - 1))}
          onClick={() => onFinish(points)}
        >
          Done
        </Button>
      )}
      {tool === "trace" && points.length > 2 && (
        <Button size="small" onClick={() => onFinish(points, true)}>
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
  );
}
