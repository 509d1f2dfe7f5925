import { useMutation } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, got, type Step } from "../api/client";
import { useBench } from "../job/context";
import type { Frame, Kept } from "./drawing";
import { useHand } from "./store";

/** Holds the drawing against the section in its plane, or a picture under it, or adjusts it; what came of it is shown until the drawing changes. */
export function useFit(step: Step, frame: Frame | null, kept: Kept, picture: string | null) {
  const { job, scanKey, tell } = useBench();
  const stamp = JSON.stringify([kept, frame, scanKey, picture]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was found is of the drawing as it was
  useEffect(() => () => useHand.getState().set({ fit: null }), [stamp]);
  const asked = useMutation({
    mutationFn: (adjust: boolean) =>
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
    onSuccess: (fit) => useHand.getState().set({ fit }),
    onError: tell,
  });
  return { ask: asked.mutate, busy: asked.isPending, can: frame !== null && (scanKey !== "" || picture !== null) };
}
