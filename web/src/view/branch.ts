/** A body's branch of the tree: the steps that made it and changed it. No React. */
import type { Job } from "../api/queries";

/** In their order: a step that leaves the body in another state than the one before has worked on it. */
export function branchOf(job: Job, body: string): { id: string; name: string }[] {
  let before: string | undefined;
  return (job.build.result?.steps ?? []).flatMap((s) => {
    const now = s.after?.[body];
    const worked = now !== undefined && now !== before;
    before = now;
    return worked ? [{ id: s.id, name: s.name }] : [];
  });
}

/** 12.3 g, 1.234 kg */
export const mass = (g: number): string =>
  g < 1000 ? `${Number(g.toPrecision(4))} g` : `${Number((g / 1000).toPrecision(4))} kg`;
