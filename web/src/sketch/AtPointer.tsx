import { useEffect, useRef } from "react";
import { useBench } from "../job/context";
import { length } from "../units";
import { at, endsOf, gap, type Sheet, type Shown, toScreen, type XY } from "./drawing";
import { useHand, useHandOf } from "./store";
import { type Do, place } from "./stroke";
import { type Field, toolOf, wayOf } from "./tools";

interface Props {
  shown: Shown;
  sheet: Sheet;
  act: Do;
}

/** At the pointer: which place is meant next, what it snaps to, and the sizes that can be typed for it. */
export function AtPointer({ shown, sheet, act }: Props) {
  const { unit } = useBench();
  const h = useHand();
  const tool = toolOf(h.tool);
  if (!tool || !h.pointer) return null;
  const way = wayOf(tool, h.way);
  const [x, y] = toScreen(sheet, h.pointer.at);
  const word = way.words[Math.min(h.spots.length, way.words.length - 1)] ?? "";
  const last = h.spots.at(-1)?.at;
  const run =
    last && tool.id === "line"
      ? [length(gap(last, h.pointer.at), unit), angleText(shown, h.after, last, h.pointer.at)]
      : [];
  const fields = tool.group === "draw" && h.spots.length > 0 ? (way.fields ?? []) : [];
  return (
    <div className="at-pointer" style={{ transform: `translate(${(x + 16).toFixed(0)}px, ${(y + 16).toFixed(0)}px)` }}>
      <span>
        {word}
        {h.pointer.said && <b> · {h.pointer.said}</b>}
      </span>
      {fields.map((f, i) => (
        <TypedSize
          key={f.name}
          field={f}
          fields={fields}
          means={run[i] ?? ""}
          onEnter={() => void place(h.pointer!, () => shown, act)}
        />
      ))}
    </div>
  );
}

/** As it would be typed: inside the corner with the line before, else from the first axis. */
function angleText(shown: Shown, after: string | null, corner: XY, to: XY): string {
  const ends = after && shown.drawing.entities?.[after]?.kind === "line" ? endsOf(shown.drawing, after) : [];
  const other = ends.map((p) => at(shown.drawing, p)).find((p) => p && gap(p, corner) > 1e-6);
  const base = other ? Math.atan2(other[1] - corner[1], other[0] - corner[0]) : 0;
  const turn = (((Math.atan2(to[1] - corner[1], to[0] - corner[0]) - base) * 180) / Math.PI + 720) % 360;
  return `${Math.min(turn, 360 - turn).toFixed(1)}°`;
}

function TypedSize(props: { field: Field; fields: Field[]; means: string; onEnter: () => void }) {
  const { field, fields, means, onEnter } = props;
  const { typed, typing, set } = useHandOf("typed", "typing", "set");
  const box = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (typing === field.name) box.current?.focus();
  }, [typing, field.name]);
  return (
    <span>
      {field.label}
      <input
        ref={box}
        className="figures"
        aria-label={field.label}
        value={typed[field.name] ?? ""}
        placeholder={field.start ?? means}
        onFocus={() => set({ typing: field.name })}
        onChange={(e) => set({ typed: { ...typed, [field.name]: e.target.value } })}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Tab") {
            e.preventDefault();
            const at = fields.findIndex((f) => f.name === field.name);
            set({ typing: fields[(at + 1) % fields.length]!.name });
          } else if (e.key === "Enter") {
            e.currentTarget.blur();
            onEnter();
          } else if (e.key === "Escape") {
            set({ typed: { ...typed, [field.name]: "" }, typing: null });
            e.currentTarget.blur();
          }
        }}
      />
    </span>
  );
}
