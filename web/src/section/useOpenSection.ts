import type { Vec3 } from "../api/build";
import { factsOf, sectionBase } from "../api/facts";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { settledFacts } from "../steps/stepValues";
import { plainSection, type SectionDraft } from "./draft";

type Part = Partial<SectionDraft>;

/** Opens a section: along a plane in space, or along what a step has made (around it, where that is an axis). */
export function useOpenSection() {
  const { job, unit } = useBench();
  const at = (region: string | null, origin: Vec3, normal: Vec3, part: Part = {}) =>
    useTool.getState().openSection({
      ...plainSection,
      region,
      origin,
      normal,
      offset: unit === "inch" ? "-0.1 inch" : "-2 mm",
      ...part,
    });
  const ofStep = (step: string, part: Part = {}) => {
    const settled = settledFacts(job.build.result?.steps ?? [], step);
    const base = sectionBase(settled);
    if (!base) return;
    const around = base.shape === "plane" ? factsOf(settled, "region")?.middle : null;
    const turned: Part = base.shape === "axis" ? { source: "radial", offset: "0 mm" } : {};
    at(step, base.at, base.along, { around, ...turned, ...part });
  };
  return { at, ofStep };
}
