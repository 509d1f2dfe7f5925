import { memo, useState } from "react";
import { useBench } from "../job/context";
import { sized, type Unit } from "../units";
import type { Sheet, Shown } from "./drawing";
import { sizePlaces } from "./places";
import { useHandOf } from "./store";
import type { Do } from "./stroke";

/** What a size reads, as it is written on the drawing: reference sizes in brackets. */
export function sizeText(shown: Shown, k: number, unit: Unit): string {
  const size = shown.drawing.sizes?.[k];
  if (!size) return "";
  const value = shown.sizes[k] ?? 0;
  const text = size.kind === "angle" ? `${Number(value.toFixed(2))}°` : sized(value, unit);
  // What does not hold is told as it is asked for, not as it is drawn.
  const asked = (size.kind === "angle" ? shown.drawing.angles : shown.drawing.lengths)?.[size.name]?.text;
  if (!shown.solved && !size.reference && asked) return asked;
  const mark = size.kind === "diameter" ? "⌀ " : size.kind === "radius" ? "R " : "";
  return size.reference ? `(${mark}${text})` : mark + text;
}

/** Sizes where they are measured; a click types another value. */
export const SizeLabels = memo(function SizeLabels({
  shown,
  sheet,
  torn,
  act,
}: {
  shown: Shown;
  sheet: Sheet;
  torn: ReadonlySet<string>;
  act: Do;
}) {
  const { unit } = useBench();
  const { chosen, set } = useHandOf("chosen", "set");
  const [typing, setTyping] = useState<string | null>(null);
  const places = sizePlaces(shown, sheet, torn.size ? [...torn, ...chosen] : chosen);
  return (
    <>
      {(shown.drawing.sizes ?? []).map((s, k) => {
        const id = `d:${k}`;
        const [x, y] = places.get(k) ?? [null, null];
        if (x === null) return null;
        const values = s.kind === "angle" ? shown.drawing.angles : shown.drawing.lengths;
        const typed = values?.[s.name]?.text ?? "";
        const style = { transform: `translate(${x.toFixed(0)}px, ${y.toFixed(0)}px) translate(-50%, -50%)` };
        if (typing === id)
          return (
            <input
              key={id}
              className="size-input figures"
              style={style}
              aria-label={`Value of ${s.name}`}
              // biome-ignore lint/a11y/noAutofocus: it was asked for by a click just here
              autoFocus
              defaultValue={typed}
              onFocus={(e) => e.target.select()}
              onKeyDown={(e) => {
                e.stopPropagation();
                if (e.key === "Escape") setTyping(null);
                if (e.key !== "Enter") return;
                const value = e.currentTarget.value.trim();
                setTyping(null);
                if (value) void act([{ act: "change-size", demand: id, value, reference: false, name: null }]);
              }}
              onBlur={() => setTyping(null)}
            />
          );
        return (
          <button
            key={id}
            type="button"
            className={`size-label figures ${s.reference ? "reads" : ""} ${chosen.includes(id) ? "chosen" : ""} ${torn.has(id) ? "torn" : ""}`}
            style={style}
            title={`${s.name}: ${s.kind} of ${s.of.join(", ")}. Click to type another value`}
            onClick={() => {
              set({ chosen: [id] });
              setTyping(id);
            }}
          >
            {sizeText(shown, k, unit)}
          </button>
        );
      })}
    </>
  );
});
