/** The line of a sketch that something is turned about. No React. */
import type { Step } from "../api/client";
import type { Kept } from "./drawing";

/** A construction line, if there is just one; else nobody can know which is meant. */
export function axisLine(step: Step | undefined): { sketch: string; entity: string } | null {
  const entities = (step?.params as Partial<Kept> | undefined)?.entities ?? {};
  const lines = Object.entries(entities).filter(([, e]) => e.kind === "line" && e.construction);
  return step && lines.length === 1 ? { sketch: step.id, entity: lines[0]![0] } : null;
}
