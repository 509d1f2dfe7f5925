import { useBench } from "../job/context";
import { usePicks } from "../pick/picks";
import { useTool } from "../sheets/tool";
import { useThings } from "./useThings";

/** Ids of the things that are chosen: what the picks lie on, else what the open step has made or changed. */
export function useChosenThings(): string[] {
  const { job, scanId } = useBench();
  const things = useThings();
  const { bodies, faces, edges, seeds, hand } = usePicks();
  const step = useTool((s) => s.step);
  const picked = [...bodies, ...faces, ...edges].map((p) => p.body);
  if (picked.length > 0) return [...new Set(picked)];
  if (seeds.length > 0 || hand) return [scanId];
  const states = job.build.result?.steps ?? [];
  const at = states.findIndex((s) => s.id === step);
  const own = states[at];
  if (!own) return [];
  const before = states[at - 1]?.after ?? {};
  const changed = Object.entries(own.after).filter(([id, key]) => before[id] !== key);
  return [own.id, ...changed.map(([id]) => id)].filter((id) => things.some((t) => t.id === id));
}
