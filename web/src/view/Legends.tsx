import { useBench } from "../job/context";
import { useAppearance } from "./appearance";
import { useShownNoise, useShownResiduals } from "./FacetMarks";
import { Legend } from "./Legend";
import { usePointed } from "./pointed";

/** What the colours in the view mean. */
export function Legends({ colours }: { colours: boolean }) {
  const { job, unit, palette } = useBench();
  const coloured = useAppearance((s) => s.coloured);
  const moved = usePointed((s) => s.moved);
  const residuals = useShownResiduals();
  const fit = job.build.result?.fit;
  const noise = useShownNoise();
  const own = { unit, palette };
  return (
    <>
      {coloured && colours && fit && <Legend acceptance={fit.figures.acceptance} {...own} />}
      {residuals && <Legend acceptance={residuals.still} what="form" {...own} />}
      {noise && <Legend acceptance={noise.still} what="noise" {...own} />}
      {moved && <Legend acceptance={job.recipe.acceptance_mm / 4} what="moved" {...own} />}
    </>
  );
}
