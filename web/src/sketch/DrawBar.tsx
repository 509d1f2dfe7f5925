import { Button, Popover, Segmented } from "antd";
import type { Step } from "../api/client";
import { BRING_IN, BRING_WAYS } from "./bringIn";
import type { Frame } from "./drawing";
import { HoldTools } from "./HoldTools";
import { LAY, LAY_WORDS } from "./pictures";
import { Snaps } from "./Snaps";
import { type Group, useHandOf } from "./store";
import { TOOLS, toolOf, wayOf } from "./tools";
import { useDrawing } from "./useDrawing";
import { lookSquare } from "./useSheet";
import { firstWay, keyed, TAKE_OVER } from "./useSketchKeys";
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
  const h = useHandOf("group", "tool", "way", "chosen", "spots", "take", "drop");
  const { shown, act } = useDrawing(step);
  const tool = toolOf(h.tool);
  const ids = keyed(h.group);
  return (
    <div className="view-bar draw-bar" role="toolbar" aria-label="Drawing">
      <p className="view-note draw-help" role="status">
        {helpOf(h.tool, h.way, h.group, h.chosen.length, h.spots.length)}
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
        {(tool || h.tool === BRING_IN) && <Ways />}
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

function helpOf(id: string | null, way: string, group: Group, chosen: number, spots: number): string {
  if (id === LAY) return LAY_WORDS[spots] ?? "";
  const tool = toolOf(id);
  if (id === BRING_IN) return BRING_WAYS.find((w) => w.id === way)?.help ?? "";
  if (id === TAKE_OVER) return "Click a piece of the section, with Shift its whole loop";
  if (tool?.of && chosen === 0) return `First choose ${tool.of}`;
  if (tool) return tool.help;
  if (group === "hold") return chosen ? "" : "Choose points, lines or curves; Shift takes more";
  return "Click chooses, with Shift more; Shift and a drag chooses in a box; a free point can be dragged";
}

const TAKES = "pieces of the section become lines and arcs of the drawing";
const BRINGS = "edges, faces, cuts and silhouettes of bodies, and other sketches: they follow what they come from";

function ToolButton({ id, digit }: { id: string; digit: string }) {
  const h = useHandOf("group", "tool", "way", "chosen", "take", "drop");
  const tool = TOOLS.find((t) => t.id === id);
  const on = h.tool === id;
  return (
    <Button
      size="small"
      type={on ? "primary" : "default"}
      aria-pressed={on}
      title={tool?.help ?? (id === BRING_IN ? BRINGS : TAKES)}
      onClick={() => (on ? h.drop() : h.take(h.group, id, firstWay(id)))}
    >
      <kbd>{digit}</kbd> {tool?.title ?? (id === BRING_IN ? "Bring in" : "Take over")}
    </Button>
  );
}

function Ways() {
  const h = useHandOf("group", "tool", "way", "chosen", "take", "drop");
  const tool = toolOf(h.tool);
  const ways = tool?.ways ?? BRING_WAYS;
  if (!h.tool || ways.length < 2) return null;
  return (
    <Segmented
      size="small"
      aria-label={tool ? `How the ${tool.title.toLowerCase()} is drawn` : "What is brought in"}
      value={tool ? wayOf(tool, h.way).id : h.way}
      onChange={(way) => h.take(h.group, h.tool, way)}
      options={ways.map((w) => ({ label: w.title, value: w.id }))}
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
