/** Parts of bodies in words and as references. No React. */
import { length, type Unit } from "../units";
import type { Borders, EdgeFacts } from "./useBorders";

export function edgeRef(body: string, edge: EdgeFacts) {
  return { body, edge: edge.name, kind: edge.kind, ends: edge.ends, place: edge.centre ?? null };
}

/** An edge in plain words. */
export function edgeTitle(edge: EdgeFacts, unit: Unit): string {
  if (edge.kind === "circle") {
    const whole = Math.abs(edge.length - 2 * Math.PI * (edge.radius ?? 0)) < 1e-3;
    return whole ? `Round edge, Ø ${length(2 * (edge.radius ?? 0), unit)}` : `Arc, R ${length(edge.radius ?? 0, unit)}`;
  }
  return `${edge.kind === "line" ? "Straight" : "Curved"} edge, ${length(edge.length, unit)}`;
}

/** Places of all edges that run on from one without a bend, itself among them. */
export function chainOf(borders: Borders, start: number): number[] {
  const found = new Set([start]);
  const open = [start];
  while (open.length)
    for (const k of borders.edges[open.pop()!]?.next ?? [])
      if (!found.has(k)) {
        found.add(k);
        open.push(k);
      }
  return [...found].sort((a, b) => a - b);
}
