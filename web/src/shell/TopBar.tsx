import { Button, Input, Segmented, Tooltip } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import type { Job } from "../api/queries";
import { useBench } from "../job/context";
import { type Panel, useTool } from "../sheets/tool";
import { Brand } from "../ui/Brand";
import type { Unit } from "../units";
import { useAppearance } from "../view/appearance";

import { WorkList } from "./WorkList";

interface Props {
  onMove: (direction: "undo" | "redo") => void;
}

/** What every job needs; the desks are doors in its evidence, and stand here as well once there is something on them. */
function panelsOf(job: Job): [Panel, string][] {
  const has = (kind: string) => job.recipe.evidence.some((e) => e.kind === kind);
  return [
    ...(has("reading") ? ([["desk", "Caliper desk"]] as [Panel, string][]) : []),
    ...(has("picture") ? ([["photo", "Photo desk"]] as [Panel, string][]) : []),
    ["values", "Values"],
    ["checkpoints", "Checkpoints"],
  ];
}

function PanelButton({ id, text }: { id: Panel; text: string }) {
  const on = useTool((s) => s.panel) === id;
  const open = useTool((s) => s.open);
  return (
    <Button type={on ? "primary" : "default"} aria-pressed={on} onClick={() => open(on ? null : id)}>
      {text}
    </Button>
  );
}

export function TopBar({ onMove }: Props) {
  const { job, unit, edit } = useBench();
  const panel = useTool((s) => s.panel);
  const open = useTool((s) => s.open);
  const coloured = useAppearance((s) => s.coloured);
  const fit = job.build.result?.fit;
  const [naming, setNaming] = useState(false);
  const rename = (name: string) => {
    setNaming(false);
    if (name.trim() && name !== job.recipe.name) void edit({ op: "set-job", name });
  };
  return (
    <header className="top">
      <Link to="/" className="brand-link" aria-label="Usable Contour: back to the shelf">
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
      <WorkList />
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
      {panelsOf(job).map(([id, text]) => (
        <PanelButton key={id} id={id} text={text} />
      ))}
      <Tooltip
        title={fit ? "Scan and bodies coloured by how far they lie apart" : "Once there is a body beside a scan"}
      >
        <Button
          type={coloured ? "primary" : "default"}
          aria-pressed={coloured}
          disabled={!fit}
          onClick={() => {
            if (panel) open(null);
            useAppearance.getState().set({ coloured: !coloured });
          }}
        >
          Check
        </Button>
      </Tooltip>
      <PanelButton id="deliver" text="Deliver" />
    </header>
  );
}
