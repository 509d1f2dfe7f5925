/** Which parts of bodies the parameters of a step speak of. */
import { useMemo } from "react";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { type Armed, useArmed } from "./armed";

/** A face, an edge or a chain of edges, by its lasting name. */
export interface Meant {
  body: string;
  name?: string;
  edge?: string;
  chain?: string;
}

function meantIn(value: unknown): Meant[] {
  if (Array.isArray(value)) return value.flatMap(meantIn);
  if (typeof value !== "object" || value === null) return [];
  const v = value as Partial<Meant>;
  if (typeof v.body === "string" && (v.edge || v.chain || v.name)) return [v as Meant];
  return Object.values(value).flatMap(meantIn);
}

/** Of the step that is being prepared; of one that stands in the job while its parts are being picked. */
export function useMeant(picking: (armed: Armed | null) => boolean): Meant[] {
  const { job } = useBench();
  const is = useArmed((s) => picking(s.armed));
  const draft = useTool((s) => s.draft);
  const id = useTool((s) => s.step);
  const step = job.recipe.steps.find((s) => s.id === id);
  const params = draft?.params ?? (is ? step?.params : undefined);
  return useMemo(() => meantIn(params), [params]);
}
