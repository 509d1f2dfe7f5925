import { factsOf } from "../api/facts";
import { share } from "../units";
import type { KindView } from "./kindView";
import { some } from "./rows";

const rows: KindView["rows"] = (facts) => {
  const told = factsOf(facts, "sector");
  if (!told) return [];
  return some(
    ["Alike around the axis", `${told.alike}, one of ${told.angle.toFixed(2)}°`],
    told.agree != null && ["Agrees with the next one", share(told.agree)],
  );
};

const Word: KindView["Word"] = ({ state }) => {
  const told = factsOf(state.facts, "sector");
  return told && <>one of {told.alike}</>;
};

export const view: KindView = { rows, Word, wordAlone: true, waits: (params) => !params.axis };
