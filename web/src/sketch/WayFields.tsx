import { Button, Input } from "antd";
import type { Shown } from "./drawing";
import { entitiesIn, useHandOf } from "./store";
import { type Do, finish } from "./stroke";
import { type Tool, wayOf } from "./tools";

/** What a change asks for beside places: a radius, a distance, how many. Drawing types its sizes at the pointer. */
export function WayFields({ tool, shown, act }: { tool: Tool; shown: Shown | undefined; act: Do }) {
  const { way, typed, chosen, set } = useHandOf("way", "typed", "chosen", "set");
  const w = wayOf(tool, way);
  const fields = tool.group === "draw" ? (w.fields ?? []).filter((f) => f.start) : (w.fields ?? []);
  const ready = shown && entitiesIn(shown, chosen).length > 0;
  const go = () => shown && void finish([], shown, act);
  return (
    <>
      {fields.map((f) => (
        <span key={f.name} className="way-field">
          {f.label}
          <Input
            size="small"
            className="figure-input"
            aria-label={`${f.label} of ${tool.title.toLowerCase()}`}
            value={typed[f.name] ?? ""}
            placeholder={f.start ?? ""}
            onChange={(e) => set({ typed: { ...typed, [f.name]: e.target.value } })}
            onKeyDown={(e) => {
              e.stopPropagation();
              if (e.key === "Enter" && w.words.length === 0 && ready) go();
              if (e.key === "Enter" || e.key === "Escape") e.currentTarget.blur();
            }}
          />
        </span>
      ))}
      {w.words.length === 0 && (
        <Button size="small" disabled={!ready} onClick={go}>
          {tool.title} what is chosen
        </Button>
      )}
    </>
  );
}
