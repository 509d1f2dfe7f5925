import { Vector3 } from "three";
import type { Vec3 } from "../api/build";
import { factsOf, sectionBase } from "../api/facts";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { settledFacts } from "../steps/stepValues";
import { typed } from "../units";
import { stage } from "../view/stage";
import { footOn, nearlyAcross, plainSection, type SectionDraft } from "./draft";

type Part = Partial<SectionDraft>;

/** Opens a section: along a plane in space, along what a step has made (around it, where that is an axis), or through the part. */
export function useOpenSection() {
  const { job, unit } = useBench();
  // How a scan lay when it was taken says nothing of the part.
  const aligned = (job.build.result?.steps ?? []).some((s) => factsOf(s.facts, "align") !== null);
  const at = (region: string | null, origin: Vec3, normal: Vec3, part: Part = {}) =>
    useTool.getState().openSection({
      ...plainSection,
      region,
      origin,
      normal,
      offset: unit === "inch" ? "-0.1 inch" : "-2 mm",
      ...part,
    });
  /** Along a flat face. Blocks made on planes that lean a little against each other meet in slivers: it is set square where it nearly is. */
  const onFace = (step: string, origin: Vec3, normal: Vec3, middle: Vec3 | null, part: Part = {}) => {
    const squared = aligned ? nearlyAcross(normal) : null;
    // Turned about its middle: the plane's own step does the same.
    const from = squared && middle ? footOn(origin, normal, middle) : origin;
    at(step, from, squared?.axis ?? normal, { around: middle, nearly: squared?.nearly ?? null, ...part });
  };
  const ofStep = (step: string, part: Part = {}) => {
    const settled = settledFacts(job.build.result?.steps ?? [], step);
    const base = sectionBase(settled);
    if (!base) return;
    if (base.shape === "axis") at(step, base.at, base.along, { source: "radial", offset: "0 mm", ...part });
    else onFace(step, base.at, base.along, factsOf(settled, "region")?.middle ?? null, part);
  };
  /** Square to the axis that a step has made, so far along it from where it starts. */
  const across = (step: string, awayMm = 0) => {
    const base = sectionBase(settledFacts(job.build.result?.steps ?? [], step));
    if (base?.shape !== "axis") return;
    at(step, base.at, base.along, { acrossAxis: true, offset: typed(awayMm, unit) });
  };
  /** Through the middle of the scan, across its longest extent: the section that says most of a part at first sight. */
  const through = () => {
    const box = stage.scan?.geometry.boundingBox;
    if (!box || !stage.scan) return;
    const middle = stage.scan.localToWorld(box.getCenter(new Vector3())).toArray() as Vec3;
    const size = box.getSize(new Vector3()).toArray();
    const normal: Vec3 = [0, 0, 0];
    normal[size.indexOf(Math.max(...size))] = 1;
    at(null, middle, normal, { offset: "0 mm", clip: true });
  };
  return { across, at, onFace, ofStep, through };
}
