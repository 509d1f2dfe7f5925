import { factsOf } from "../api/facts";
import { useDeclarations } from "../api/kinds";
import { useBench } from "../job/context";

/** Steps above that make what a reference wants; bodies as they are there. */
export function useOffers(ref: string, step: string | null): { value: string; label: string }[] {
  const { job } = useBench();
  const { kinds, references } = useDeclarations();
  const wanted = references[ref];
  const steps = job.recipe.steps;
  const at = step === null ? steps.length : steps.findIndex((s) => s.id === step);
  const above = steps.slice(0, at < 0 ? steps.length : at);
  const states = job.build.result?.steps ?? [];
  if (ref !== "body")
    return above
      .filter((s) => wanted?.accepts.includes(kinds[s.kind]?.makes ?? ""))
      .filter((s) => {
        const region = factsOf(states.find((t) => t.id === s.id)?.facts, "region");
        const shapes = region ? (wanted?.shapes ?? []) : [];
        return shapes.length === 0 || shapes.includes(region?.kind ?? "");
      })
      .map((s) => ({ value: s.id, label: s.name }));
  const ids = new Set(above.flatMap((s) => Object.keys(states.find((t) => t.id === s.id)?.after ?? {})));
  const named = job.build.result?.bodies ?? [];
  return steps
    .filter((s) => ids.has(s.id))
    .map((s) => ({ value: s.id, label: named.find((b) => b.id === s.id)?.name ?? s.name }));
}
