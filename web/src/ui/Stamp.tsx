import { Tooltip } from "antd";

export const MARKS: Record<string, { letter: string; shape: string; text: string }> = {
  scan: { letter: "S", shape: "circle", text: "from the scan's fit" },
  caliper: { letter: "C", shape: "square", text: "from a caliper reading" },
  photo: { letter: "P", shape: "triangle", text: "from a photo" },
  drawing: { letter: "D", shape: "page", text: "from a drawing" },
  solid: { letter: "B", shape: "cube", text: "from a reference solid" },
  standard: { letter: "N", shape: "hexagon", text: "from a standard" },
  intent: { letter: "I", shape: "diamond", text: "intended by the designer" },
  assumed: { letter: "?", shape: "dashed", text: "assumed: typed without evidence" },
};

/** Where a value comes from, as a small stamp: shape and letter, never colour alone. */
export function Stamp({ mark }: { mark: string }) {
  const m = MARKS[mark] ?? MARKS.assumed!;
  return (
    <Tooltip title={m.text}>
      <span className={`stamp stamp-${m.shape}`} role="img" aria-label={m.text}>
        <b>{m.letter}</b>
      </span>
    </Tooltip>
  );
}
