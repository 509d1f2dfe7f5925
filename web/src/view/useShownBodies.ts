import { useMemo } from "react";
import { useBench } from "../job/context";
import { useSeen } from "../job/seen";
import { takesBodies, useArmed } from "../pick/armed";
import { usePassing } from "../steps/passing";

export interface ShownBody {
  id: string;
  name: string;
  key: string;
  colour: string | null;
  /** A view buffer as base64 while this is only what a value being typed would give. */
  view: string | null;
  /** Names of its faces then, by their numbers. */
  names: readonly string[];
  /** Numbers of the faces that only the step being prepared makes. */
  fresh: readonly number[];
  /** It closes no volume, or is there only to look at. */
  open: boolean;
  reference: boolean;
}

const NONE: readonly never[] = [];

/** The bodies on the bench: of the whole job, as of a step, or as a value being typed would make them. */
export function useShownBodies(): ShownBody[] {
  const { job } = useBench();
  const asOf = useSeen((s) => s.asOf);
  // What only a preview shows cannot be referred to: a face is picked on the bodies as they are.
  const picking = useArmed((s) => takesBodies(s.armed));
  const shown = usePassing((s) => s.preview);
  const awaited = usePassing((s) => s.awaited);
  const building = job.build.status === "queued" || job.build.status === "running";
  // What was looked at before it was kept stays in sight until it is built.
  const onTheWay = awaited && (awaited.revision === null || (awaited.revision === job.revision && building));
  const preview = picking ? null : (shown ?? (onTheWay ? awaited.bodies : null));
  const result = job.build.result;
  return useMemo(() => {
    const named = result?.bodies ?? [];
    const name = (id: string) =>
      named.find((b) => b.id === id)?.name ?? job.recipe.steps.find((s) => s.id === id)?.name ?? "body";
    const colour = (id: string) =>
      job.recipe.bodies?.find((b) => b.id === id)?.colour ?? named.find((b) => b.id === id)?.colour ?? null;
    const said = (id: string) => {
      const b = named.find((x) => x.id === id);
      return { name: name(id), colour: colour(id), open: (b?.open ?? 0) > 0, reference: b?.role === "reference" };
    };
    if (preview) return preview.map((b) => ({ ...b, ...said(b.id) }));
    const past = asOf === null ? undefined : result?.steps.find((s) => s.id === asOf);
    const keys = past ? Object.entries(past.after) : named.map((b) => [b.id, b.key] as const);
    return keys.map(([id, key]) => ({ id, key, view: null, names: NONE, fresh: NONE, ...said(id) }));
  }, [result, asOf, preview, job.recipe]);
}
