import type { StepState } from "../api/build";
import { factsOf } from "../api/facts";
import { useBench } from "../job/context";
import { area, share } from "../units";
import type { KindView } from "./kindView";
import { some } from "./rows";

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "counterpart");
  if (!told) return [];
  return some(
    ["Taken over", told.borrowed > 0 ? area(told.borrowed, unit) : "nothing"],
    told.alike > 2 && ["Alike around the axis", String(told.alike)],
    told.agree != null && ["Agrees with its like", share(told.agree)],
    told.refused > 0 && ["On one side only", String(told.refused)],
  );
};

function Word({ state }: { state: StepState }) {
  const { unit } = useBench();
  const told = factsOf(state.facts, "counterpart");
  return told && <>{told.borrowed > 0 ? area(told.borrowed, unit) : "nothing"}</>;
}

export const view: KindView = { rows, Word, wordAlone: true, waits: (params) => params.by === "turn" && !params.axis };
