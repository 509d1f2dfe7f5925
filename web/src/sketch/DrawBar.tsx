import { Button, Popover, Segmented } from "antd";
import type { Step } from "../api/client";
import type { Frame } from "./drawing";
import { HoldTools } from "./HoldTools";
import { Snaps } from "./Snaps";
import { type Group, useHand } from "./store";
import { TOOLS, toolOf, wayOf } from "./tools";
import { useDrawing } from "./useDrawing";
import { lookSquare } from "./useSheet";
import { keyed, TAKE_OVER } from "./useSketchKeys";
import { useTakeOver } from "./useTakeOver";
import { useUnderlay } from "./useUnderlay";
import { WayFields } from "./WayFields";

const GROUPS: { label: string; value: Group }[] = [
  { label: "Draw", value: "draw" },
  { label: "Change", value: "change" },
  { label: "Hold", value: "hold" },
];

/** The view's bar while one draws: what to draw, to change, and to hold; digits choose within the group that is open. */
export function DrawBar({ step, frame }: { step: Step; frame: Frame }) {
  const h = useHand();
  const { shown, act } = useDrawing(step);
  const tool = toolOf(h.tool);
  const ids = keyed(h.group);
  return (
    <div className="view-bar draw-bar" role="toolbar" aria-label="Drawing">
      <p className="view-note draw-help" role="status">
        {helpOf(h.tool, h.group, h.chosen.length)}
      </p>
      <div className="draw-row">
        {h.group !== "hold" &&
          ids.map((id, k) => <ToolButton key={id} id={id} digit={k < 10 ? String((k + 1) % 10) : ""} />)}
        {h.group === "hold" && shown && <HoldTools shown={shown} act={act} />}
      </div>
      <div className="draw-row">
        <Segmented<Group>
          size="small"
          aria-label="What the pencil does"
          value={h.group}
          onChange={(g) => h.take(g, null)}
          options={GROUPS}
        />
        {tool && <Ways />}
        {tool && <WayFields tool={tool} shown={shown} act={act} />}
        {h.tool === TAKE_OVER && <TakeAll step={step} frame={frame} />}
        <span className="draw-gap" />
        <Popover trigger="click" placement="topRight" destroyOnHidden content={<Snaps />}>
          <Button size="small">Snaps</Button>
        </Popover>
        <Button size="small" title="turn the view square to the plane" onClick={() => lookSquare(frame, 120)}>
          Square
        </Button>
        <Button size="small" title="the same, seen from behind" onClick={() => lookSquare(frame, 120, true)}>
          Behind
        </Button>
      </div>
    </div>
  );
}

function helpOf(id: string | null, group: Group, chosen: number): string {
  const tool = toolOf(id);
  if (id === TAKE_OVER) return "Click a piece of the section, with Shift its whole loop";
  if (tool?.of && chosen === 0) return `First choose ${tool.of}`;
  if (tool) return tool.help;
  if (group === "hold") return chosen ? "" : "Choose points, lines or curves; Shift takes more";
  return "Click chooses, with Shift more; a point that is free can be dragged";
}

function ToolButton({ id, digit }: { id: string; digit: string }) {
  const h = useHand();
  const tool = TOOLS.find((t) => t.id === id);
  const on = h.tool === id;
  return (
    <Button
      size="small"
      type={on ? "primary" : "default"}
      aria-pressed={on}
      title={tool?.help ?? "pieces of the section become lines and arcs of the drawing"}
      onClick={() => (on ? h.drop() : h.take(h.group, id, tool?.ways[0]?.id ?? ""))}
    >
      <kbd>{digit}</kbd> {tool?.title ?? "Take over"}
    </Button>
  );
}

function Ways() {
  const h = useHand();
  const tool = toolOf(h.tool)!;
  if (tool.ways.length < 2) return null;
  return (
    <Segmented
      size="small"
      aria-label={`How the ${tool.title.toLowerCase()} is drawn`}
      value={wayOf(tool, h.way).id}
      onChange={(way) => h.take(h.group, tool.id, way)}
      options={tool.ways.map((w) => ({ label: w.title, value: w.id }))}
    />
  );
}

function TakeAll({ step, frame }: { step: Step; frame: Frame }) {
  const { act } = useDrawing(step);
  const over = useTakeOver(step, frame, useUnderlay(frame), act);
  return (
    <Button size="small" disabled={!over.ready} onClick={over.all}>
      Take all of the section
    </Button>
  );
}
