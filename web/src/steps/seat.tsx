import type { StepState } from "../api/build";
import { factsOf } from "../api/facts";
import type { KindView, PartProps } from "./kindView";
import { type SeatPair, SeatPairs } from "./SeatPairs";

function Below({ params, step, state, onChange }: PartProps) {
  const facts = factsOf(state?.facts, "seat");
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
  return <>{`${facts.seated} seated${facts.refused ? `, ${facts.refused} refused` : ""}`}</>;
}

export const view: KindView = {
  Below,
  Word,
  wordAlone: true,
  waits: (params) => !(params.pairs as unknown[] | undefined)?.length,
  shows: (problem) => problem.where?.param?.startsWith("pairs[") ?? false,
  wide: true,
};
