import { useQueries } from "@tanstack/react-query";
import { useMemo } from "react";
import { useBench } from "../job/context";
import type { ShownBody } from "../view/useShownBodies";
import type { Armed } from "./armed";
import { useMeant } from "./meant";
import { usePicks } from "./picks";
import { bordersQuestion } from "./useBorders";

const NONE: number[] = [];
const picksEdges = (armed: Armed | null) => armed?.onEdge !== undefined;

/** Places of the edges to be drawn strongly on a body: those picked, and while a step's edges are being picked into, its own. */
export function useChosenEdges(bodies: readonly ShownBody[]): (body: string, key: string) => number[] {
  const { job } = useBench();
  const picked = usePicks((s) => s.edges);
  const meant = useMeant(picksEdges).filter((m) => m.edge || m.chain);
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
