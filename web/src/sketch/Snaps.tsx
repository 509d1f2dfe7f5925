import { Checkbox } from "antd";
import { useBench } from "../job/context";
import { LengthInput } from "../ui/LengthInput";
import { roughLength, typed } from "../units";
import type { SnapSwitches } from "./snap";
import { useHandOf } from "./store";

const WORDS: { name: Exclude<keyof SnapSwitches, "grid">; text: string }[] = [
  { name: "points", text: "points, ends and centres" },
  { name: "middles", text: "middles of lines and arcs" },
  { name: "curves", text: "lines and curves" },
  { name: "evidence", text: "the section, and cuts of bodies" },
  { name: "directions", text: "level, upright, along, square to and touching what is there" },
];

/** Every snap by itself; Alt holds them all off. */
export function Snaps() {
  const { unit } = useBench();
  const { snaps, set } = useHandOf("snaps", "set");
  return (
    <div className="snaps">
      {WORDS.map((w) => (
        <Checkbox
          key={w.name}
          checked={snaps[w.name]}
          onChange={(e) => set({ snaps: { ...snaps, [w.name]: e.target.checked } })}
        >
          {w.text}
        </Checkbox>
      ))}
      <span className="way-field">
        <Checkbox
          checked={snaps.grid !== null}
          onChange={(e) => set({ snaps: { ...snaps, grid: e.target.checked ? (unit === "inch" ? 2.54 : 1) : null } })}
        >
          a grid of
        </Checkbox>
        <LengthInput
          label="Spacing of the grid"
          value={snaps.grid === null ? "" : typed(snaps.grid, unit)}
          onCommit={(text) => {
            const mm = roughLength(text, unit);
            set({ snaps: { ...snaps, grid: mm > 0 ? mm : null } });
          }}
        />
      </span>
      <p className="quiet small">Alt holds all of them off.</p>
    </div>
  );
}
