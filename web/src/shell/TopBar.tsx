import { Button, Input, Segmented, Tooltip } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { useBench } from "../job/context";
import { type Panel, useTool } from "../sheets/tool";
import { Brand } from "../ui/Brand";
import type { Unit } from "../units";

interface Props {
  onMove: (direction: "undo" | "redo") => void;
}

const PANELS: [Panel, string][] = [
  ["desk", "Caliper desk"],
  ["photo", "Photo desk"],
  ["values", "Values"],
  ["checkpoints", "Checkpoints"],
  ["deliver", "Deliver"],
];

export function TopBar({ onMove }: Props) {
  const { job, unit, edit } = useBench();
  const panel = useTool((s) => s.panel);
  const open = useTool((s) => s.open);
  const [naming, setNaming] = useState(false);
  const rename = (name: string) => {
    setNaming(false);
    if (name.trim() && name !== job.recipe.name) void edit({ op: "set-job", name });
  };
  return (
    <header className="top">
      <Link to="/" className="brand-link" aria-label="Back to the shelf">
        <Brand />
      </Link>
      {naming ? (
        <Input
          size="small"
          className="job-name-input"
          autoFocus
          aria-label="Job name"
          defaultValue={job.recipe.name}
          onBlur={(e) => rename(e.target.value)}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === "Enter") e.currentTarget.blur();
          }}
        />
      ) : (
        <Tooltip title="Click to rename">
          <button type="button" className="job-name" onClick={() => setNaming(true)}>
            {job.recipe.name}
          </button>
        </Tooltip>
      )}
      <div className="top-gap" />
      <Tooltip title={job.undo ? `Undo: ${job.undo} (Ctrl+Z)` : "Nothing to undo"}>
        <Button type="text" disabled={!job.undo} onClick={() => onMove("undo")} aria-label="Undo">
          Undo
        </Button>
      </Tooltip>
      <Tooltip title={job.redo ? `Redo: ${job.redo} (Ctrl+Y)` : "Nothing to redo"}>
        <Button type="text" disabled={!job.redo} onClick={() => onMove("redo")} aria-label="Redo">
          Redo
        </Button>
      </Tooltip>
      <Segmented<Unit>
        size="small"
        aria-label="Unit shown"
        value={unit}
        options={["mm", "inch"]}
        onChange={(u) => void edit({ op: "set-job", unit: u })}
      />
      {PANELS.map(([id, text]) => (
        <Button
          key={id}
          type={panel === id ? "primary" : "default"}
          aria-pressed={panel === id}
          onClick={() => open(panel === id ? null : id)}
        >
          {text}
        </Button>
      ))}
    </header>
  );
}
