import { useMutation } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, got, type Step } from "../api/client";
import { useBench } from "../job/context";
import type { Fit, Frame, Kept } from "./drawing";
import { useHand } from "./store";

/**
 * The same for drawings that are the same: what was acted on and what the job then gives back may differ in the order
 * of their keys and in the last bits of a number.
 */
export function stampOf(of: unknown): string {
  return JSON.stringify(of, (_, value: unknown) => {
    if (typeof value === "number") return Number(value.toFixed(7)) + 0; // no "-0"
    if (value === null || typeof value !== "object" || Array.isArray(value)) return value;
    return Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)));
  });
}

/** Holds the drawing against the section in its plane, or a picture under it, or adjusts it; what came of it is shown until the drawing changes. */
export function useFit(step: Step, frame: Frame | null, kept: Kept, picture: string | null) {
  const { job, scanKey, tell } = useBench();
  const stamp = stampOf([kept, frame, scanKey, picture]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was found is of the drawing as it was
  useEffect(() => () => useHand.getState().set({ fit: null }), [stamp]);
  const asked = useMutation({
    mutationFn: ({ adjust }: { adjust: boolean; of: string }): Promise<Fit> =>
      got(
        api.POST("/api/jobs/{job_id}/drawing/fit", {
          params: { path: { job_id: job.id } },
          body: {
            step: step.id,
            drawing: kept,
            scan: scanKey,
            picture,
            origin: frame!.origin,
            u_axis: frame!.u,
            normal: frame!.normal,
            adjust,
          },
        }),
      ),
    // The drawing has gone on meanwhile, such as by an edit that was on its way: what was asked is asked of the newer one.
    onSuccess: (fit, { adjust, of }): void => {
      if (of === stamp) useHand.getState().set({ fit });
      else asked.mutate({ adjust, of: stamp });
    },
    onError: tell,
  });
  return {
    ask: (adjust: boolean) => asked.mutate({ adjust, of: stamp }),
    busy: asked.isPending,
    can: frame !== null && (scanKey !== "" || picture !== null),
  };
}
