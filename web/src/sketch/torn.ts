/** What contradicts itself: the demands of the minimal sets, and the entities that they speak of. No React. */
import type { Shown } from "./drawing";

export function ofDemand(shown: Shown, demand: string): string[] {
  const [list, k] = demand.split(":");
  const rows = list === "c" ? shown.drawing.constraints : shown.drawing.sizes;
  return [...(rows?.[Number(k)]?.of ?? [])];
}

export function tornOf(shown: Shown): Set<string> {
  const demands = shown.conflicts.flat();
  return new Set([...demands, ...demands.flatMap((d) => ofDemand(shown, d))]);
}
