import { InputNumber, Segmented, Select } from "antd";
import type { Vec3 } from "../api/build";
import { baseOf, sectionBase } from "../api/facts";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { settledFacts } from "../steps/stepValues";
import { MM_PER } from "../units";
import { unit as unitOf } from "./plane";
import { useSeveral } from "./useSection";

type Kind = "one" | "parallel" | "fan";

/** Several sections at once, parallel or as a fan about an axis; the outline is taken from the one that is chosen. */
export function Several() {
  const { job, unit } = useBench();
  const draft = useTool((s) => s.section)!;
  const set = useTool((s) => s.setSection);
  const recut = useTool((s) => s.recut);
  const planes = useSeveral();
  const steps = job.build.result?.steps ?? [];
  const axes = steps.filter((s) => baseOf(s)?.shape === "axis");
  const several = draft.several;
  const axisOf = (id: string) => {
    const base = sectionBase(settledFacts(steps, id));
    return base ? { axisRef: id, axis: base.along, axisOrigin: base.at } : { axisRef: id };
  };
  const choose = (kind: Kind) => {
    if (kind === "one") return set({ several: null });
    if (kind === "parallel") return set({ several: { kind, count: 5, step: unit === "inch" ? 5.08 : 5 } });
    const first = axes[0];
    if (first) set({ several: { kind, count: 6, step: 30, ...axisOf(first.id) } });
  };
  const size = several?.kind === "fan" ? 1 : MM_PER[unit];
  return (
    <>
      <div className="field-label">Planes</div>
      <Segmented<Kind>
        block
        size="small"
        aria-label="How many planes"
        value={several?.kind ?? "one"}
        onChange={choose}
        options={[
          { label: "one", value: "one" },
          { label: "parallel", value: "parallel" },
          {
            label: "fan",
            value: "fan",
            disabled: axes.length === 0,
            title: axes.length ? "" : "a fan needs an axis: keep a cylinder region first",
          },
        ]}
      />
      {several && (
        <>
          {several.kind === "fan" && (
            <Select
              size="small"
              className="wide gap"
              aria-label="Axis of the fan"
              value={several.axisRef}
              options={axes.map((s) => ({ value: s.id, label: s.name }))}
              onChange={(id: string) => set({ several: { ...several, ...axisOf(id) } })}
            />
          )}
          <div className="value-line gap">
            <InputNumber
              size="small"
              aria-label="How many"
              min={2}
              max={60}
              value={several.count}
              onChange={(count) => count && set({ several: { ...several, count } })}
              onKeyDown={(e) => e.stopPropagation()}
            />
            <span className="quiet">every</span>
            <InputNumber
              size="small"
              aria-label="Step between planes"
              value={Number((several.step / size).toFixed(4))}
              onChange={(step) => step && set({ several: { ...several, step: step * size } })}
              onKeyDown={(e) => e.stopPropagation()}
            />
            <span className="quiet">{several.kind === "fan" ? "deg" : unit}</span>
          </div>
          <fieldset className="plane-chips" aria-label="Outline of plane">
            {planes.map((p, i) => (
              <button
                // biome-ignore lint/suspicious/noArrayIndexKey: planes are counted
                key={i}
                type="button"
                aria-pressed={i === 0}
                title={p.cuts.length ? "take the outline here" : "misses the scan"}
                disabled={p.cuts.length === 0}
                onClick={() =>
                  recut({
                    // The chosen plane stands free from here on; the others keep their places relative to it no longer.
                    region: null,
                    origin: p.origin as Vec3,
                    normal: unitOf(p.normal as Vec3),
                    offset: "0 mm",
                    turnU: 0,
                    turnV: 0,
                    several: null,
                  })
                }
              >
                {i + 1}
              </button>
            ))}
          </fieldset>
        </>
      )}
    </>
  );
}
