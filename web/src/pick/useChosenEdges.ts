import { useQueries } from "@tanstack/react-query";
import { useMemo } from "react";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import type { ShownBody } from "../view/useShownBodies";
import { useArmed } from "./armed";
import { usePicks } from "./picks";
import { bordersQuestion } from "./useBorders";

interface Meant {
  body: string;
  edge?: string;
  chain?: string;
}

function meantIn(value: unknown): Meant[] {
  if (Array.isArray(value)) return value.flatMap(meantIn);
  if (typeof value !== "object" || value === null) return [];
  const v = value as Partial<Meant>;
  if (typeof v.body === "string" && (v.edge || v.chain)) return [v as Meant];
  return Object.values(value).flatMap(meantIn);
}

const NONE: number[] = [];

/** Places of the edges to be drawn strongly on a body: those picked, and while a step's edges are being picked into, its own. */
export function useChosenEdges(bodies: readonly ShownBody[]): (body: string, key: string) => number[] {
  const { job } = useBench();
  const picked = usePicks((s) => s.edges);
  const picking = useArmed((s) => s.armed?.onEdge !== undefined);
  const draft = useTool((s) => s.draft);
  const id = useTool((s) => s.step);
  const step = job.recipe.steps.find((s) => s.id === id);
  const params = draft?.params ?? (picking ? step?.params : undefined);
  const meant = useMemo(() => meantIn(params), [params]);
  const keys = bodies.filter((b) => !b.view && meant.some((m) => m.body === b.id)).map((b) => b.key);
  const known = useQueries({ queries: keys.map((key) => bordersQuestion(job.id, key)) });
  const own = keys.map((key, k) => {
    const body = bodies.find((b) => b.key === key)!.id;
    const names = new Set(meant.filter((m) => m.body === body).map((m) => m.edge ?? m.chain));
    return (known[k]?.data?.edges ?? []).flatMap((e, i) => (names.has(e.name) ? [i] : []));
  });
  const text = JSON.stringify([picked.map((p) => [p.key, p.index]), keys, own]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: by what they say, so that nothing is drawn anew for the same edges
  return useMemo(() => {
    const lists = new Map<string, number[]>();
    for (const p of picked) lists.set(p.key, [...(lists.get(p.key) ?? []), p.index]);
    for (const [k, key] of keys.entries()) lists.set(key, [...(lists.get(key) ?? []), ...own[k]!]);
    return (_body: string, key: string) => lists.get(key) ?? NONE;
  }, [text]);
}
