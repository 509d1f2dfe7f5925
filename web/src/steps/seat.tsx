import type { StepState } from "../api/build";
import { factsOf } from "../api/facts";
import { useBench } from "../job/context";
import type { KindView, PartProps } from "./kindView";
import { usePassing } from "./passing";
import { newestFacts } from "./proposal";
import { cameOutWords, type SeatPair, SeatPairs } from "./SeatPairs";

function Below({ params, step, state, onChange }: PartProps) {
  const { job } = useBench();
  const passing = usePassing((s) => s.passing);
  // What is being prepared tells how it would come out as soon as that is worked out.
  const facts = factsOf(step ? state?.facts : newestFacts(passing, job.recipe.steps), "seat");
  return (
    <SeatPairs
      step={step?.id ?? null}
      body={(params.body as { id: string }).id}
      pairs={params.pairs as SeatPair[]}
      rows={facts?.pairs ?? []}
      unseated={step ? (facts?.unseated ?? []) : null}
      onChange={(pairs) => onChange({ pairs })}
    />
  );
}

function Word({ state }: { state: StepState }) {
  const facts = factsOf(state.facts, "seat");
  if (!facts) return null;
  return <>{cameOutWords(facts.pairs.map((r) => r.status))}</>;
}

export const view: KindView = {
  Below,
  Word,
  wordAlone: true,
  waits: (params) => !(params.pairs as unknown[] | undefined)?.length,
  shows: (problem) => problem.where?.param?.startsWith("pairs[") ?? false,
  wide: true,
};
