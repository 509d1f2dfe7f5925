import type { StepState } from "../api/build";
import { factsOf } from "../api/facts";
import type { KindView } from "./kindView";

/** How many faces the solid has, or what keeps it from being one. */
function Word({ state }: { state: StepState }) {
  const facts = factsOf(state.facts, "solidify");
  if (!facts) return null;
  if (facts.gaps) return <>{facts.gaps === 1 ? "open in one place" : `open in ${facts.gaps} places`}</>;
  return <>{facts.faces} faces</>;
}

export const view: KindView = { Word, wordAlone: true };
