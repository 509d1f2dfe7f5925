import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { create } from "zustand";
import { api, got, type Step } from "../api/client";
import type { Job } from "../api/queries";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { type Act, type Frame, frameOf, type Kept, type Shown } from "./drawing";

const OWN = [
  "entities",
  "constraints",
  "sizes",
  "lengths",
  "angles",
  "taken",
  "links",
  "under",
  "pictures",
  "made",
  "named",
] as const;

/** What of a step's parameters is its drawing. */
export function keptOf(params: Record<string, unknown>): Kept {
  return Object.fromEntries(OWN.flatMap((k) => (k in params ? [[k, params[k]]] : []))) as Kept;
}

interface Ahead {
  step: string;
  kept: Kept | null;
  /** On the way. */
  edits: number;
  /** The version of the job that has them all. */
  until: number;
}

/** A drawing that is ahead of the job that is shown: it has been acted on, and its edits are on the way or have only just arrived. */
const useAhead = create<Ahead>(() => ({ step: "", kept: null, edits: 0, until: 0 }));

const isAhead = (a: Ahead, step: string | undefined, version: number) =>
  a.kept !== null && a.step === step && (a.edits > 0 || version < a.until);

/** Where planes lay when they were last built: a build that is under way, or fails, takes no pencil out of the hand. */
const lastKnown = new Map<string, string>();

/** The sketch that is open, and where its plane lies; none while nothing has been built of it. */
export function useOpenSketch(): { step: Step; frame: Frame | null } | null {
  const { job } = useBench();
  const id = useTool((s) => s.step);
  const step = job.recipe.steps.find((s) => s.id === id && s.kind === "sketch");
  const facts = job.build.result?.steps.find((s) => s.id === id)?.facts;
  const told = facts && "u_axis" in facts && facts.of === "drawn" ? facts : null;
  if (told && id) lastKnown.set(id, JSON.stringify([told.origin, told.u_axis, told.normal, told.before_turn]));
  const text = (id && lastKnown.get(id)) || "";
  return useMemo(() => {
    if (!step) return null;
    if (!text) return { step, frame: null };
    const [origin, u, normal, level] = JSON.parse(text);
    return { step, frame: frameOf(origin, u, normal, level) };
  }, [step, text]);
}

const ASKED = { staleTime: Number.POSITIVE_INFINITY, gcTime: 60_000, retry: false };

/** The drawing of the open sketch as it settles, and how it is acted on: solved at once, kept by an edit of its step. */
export function useDrawing(step: Step | undefined) {
  const { job, edit, tell } = useBench();
  const client = useQueryClient();
  const ahead = useAhead();
  const params = step?.params;
  const stored = useMemo(() => keptOf(params ?? {}), [params]);
  const kept = isAhead(ahead, step?.id, job.version) ? ahead.kept! : stored;
  const id = step?.id ?? null;
  const ask = useCallback(
    (drawing: Kept, acts: Act[]): Promise<Shown> =>
      got(
        api.POST("/api/jobs/{job_id}/drawing", {
          params: { path: { job_id: job.id } },
          body: { step: id, drawing, acts },
        }),
      ),
    [job.id, id],
  );
  const facts = job.build.result?.steps.find((s) => s.id === id)?.facts;
  const linked = facts && "linked" in facts ? JSON.stringify(facts.linked) : "";
  const keyOf = useCallback((of: Kept) => ["drawing", job.id, linked, JSON.stringify(of)], [job.id, linked]);
  const key = useMemo(() => keyOf(kept), [keyOf, kept]);
  const { data, error } = useQuery({
    queryKey: key,
    enabled: step !== undefined,
    placeholderData: (before: Shown | undefined) => before,
    queryFn: () => ask(kept, []),
    ...ASKED,
  });
  /** What came of acts, or none where they were refused: that has been said then. */
  const act = useCallback(
    async (acts: Act[]): Promise<Shown | null> => {
      if (!step) return null;
      const from = useAhead.getState();
      const cached = client.getQueryData<Job>(["job", job.id]) ?? job;
      const params = cached.recipe.steps.find((s) => s.id === step.id)?.params ?? {};
      const now = isAhead(from, step.id, cached.version) ? from.kept! : keptOf(params);
      try {
        const shown = await ask(now, acts);
        client.setQueryData(keyOf(shown.drawing), shown);
        useAhead.setState((s) => ({ step: step.id, kept: shown.drawing, edits: s.edits + 1 }));
        void edit({ op: "set-params", step: step.id, params: { ...shown.drawing } }).then((done) => {
          const until = client.getQueryData<Job>(["job", job.id])?.version ?? 0;
          useAhead.setState((s) => ({ edits: s.edits - 1, until, ...(done ? {} : { kept: null }) }));
        });
        return shown;
      } catch (e) {
        tell(e);
        return null;
      }
    },
    [ask, client, edit, keyOf, tell, job, step],
  );
  return { shown: data, problem: error, act, kept };
}
