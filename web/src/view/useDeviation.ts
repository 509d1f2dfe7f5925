import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { useBench } from "../job/context";
import { useAppearance } from "./appearance";
import { parseNpyFloats } from "./buffers";
import { colourise } from "./deviation";

/** Colours of the scan's vertices by deviation, when they are asked for and the full fit is there. */
export function useDeviation(): Uint8Array<ArrayBuffer> | null {
  const { job, palette } = useBench();
  const coloured = useAppearance((s) => s.coloured);
  const fit = job.build.result?.fit;
  const key = fit && !fit.figures.sampled ? fit.key : null;
  const { data } = useQuery({
    queryKey: ["deviation", job.id, key],
    enabled: coloured && key !== null,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
    queryFn: async () => {
      const answer = await fetch(`/api/jobs/${job.id}/products/${key}/deviation`);
      if (!answer.ok) throw new Error("The deviations could not be loaded.");
      return parseNpyFloats(await answer.arrayBuffer());
    },
  });
  const acceptance = fit?.figures.acceptance ?? 0.1;
  return useMemo(
    () => (coloured && data ? colourise(data, acceptance, palette) : null),
    [coloured, data, acceptance, palette],
  );
}
