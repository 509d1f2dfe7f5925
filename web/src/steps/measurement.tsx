import type { StepState } from "../api/build";
import { factsOf } from "../api/facts";
import { mainFigure } from "../construct/places";
import { useBench } from "../job/context";
import type { KindView } from "./kindView";

function Word({ state }: { state: StepState }) {
  const { unit } = useBench();
  const facts = factsOf(state.facts, "measurement");
  return facts && <span className="figures">{mainFigure(facts, unit)}</span>;
}

export const view: KindView = { Word, lists: true, kept: "measure" };
