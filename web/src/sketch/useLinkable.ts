import { useQueries } from "@tanstack/react-query";
import { useMemo } from "react";
import { api, got, type Step } from "../api/client";
import type { components } from "../api/schema";
import { useBench } from "../job/context";
import { BRING_IN, type BringWay } from "./bringIn";
import type { Frame } from "./drawing";
import { useHand } from "./store";

type Linkable = components["schemas"]["LinkableOut"];

/** One thing that can be brought in, and what it is of. */
export interface Offer extends Linkable {
  source: string;
  name: string;
}

/** What the bodies and sketches above this one offer, in the way that is chosen; nothing while the tool is not in hand. */
export function useLinkable(step: Step, frame: Frame | null): { offers: Offer[]; busy: boolean } {
  const { job, tell } = useBench();
  const tool = useHand((s) => s.tool);
  const way = useHand((s) => s.way) as BringWay;
  const on = tool === BRING_IN && frame !== null;
  const result = job.build.result;
  const sources = useMemo(() => {
    if (!on) return [];
    const upTo = job.recipe.steps.findIndex((s) => s.id === step.id);
    const above = job.recipe.steps.slice(0, upTo);
    const state = (id: string) => result?.steps.find((s) => s.id === id);
    const sketches = above.filter((s) => state(s.id)?.status === "ok" && isSketch(state(s.id)?.facts));
    if (way === "sketch") return sketches.map((s) => ({ id: s.id, name: s.name, key: state(s.id)?.key ?? "" }));
    const after = Object.assign({}, ...above.map((s) => state(s.id)?.after ?? {})) as Record<string, string>;
    const named = (id: string) => result?.bodies.find((b) => b.id === id)?.name;
    return Object.entries(after).map(([id, key]) => ({ id, key, name: named(id) ?? "body" }));
  }, [on, way, job.recipe, result, step.id]);
  const asked = useQueries({
    queries: sources.map((s) => ({
      queryKey: ["linkable", job.id, step.id, s.id, s.key, way, frame],
      staleTime: Number.POSITIVE_INFINITY,
      gcTime: 60_000,
      retry: false,
      queryFn: () =>
        got(
          api.POST("/api/jobs/{job_id}/linkable", {
            params: { path: { job_id: job.id } },
            body: {
              step: step.id,
              source: s.id,
              way,
              origin: frame!.origin,
              u_axis: frame!.u,
              normal: frame!.normal,
            },
          }),
        ).catch((error) => {
          tell(error); // an empty view would look as if there were nothing to bring in
          throw error;
        }),
    })),
  });
  const busy = asked.some((a) => a.isPending);
  const came = asked.map((a) => a.data);
  const stamp = asked.map((a) => a.dataUpdatedAt).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the answers change with their stamps
  const offers = useMemo(
    () => sources.flatMap((s, k) => (came[k] ?? []).map((o) => ({ ...o, source: s.id, name: s.name }))),
    [sources, stamp],
  );
  return { offers, busy };
}

const isSketch = (facts: { of?: string } | null | undefined) => facts?.of === "sketch" || facts?.of === "drawn";
