import { factsOf } from "../api/facts";
import type { KindView } from "./kindView";
import { some } from "./rows";

const rows: KindView["rows"] = (facts) => {
  const told = factsOf(facts, "combine");
  if (!told) return [];
  return some(
    told.pieces > 1 && ["Pieces", told.kept < told.pieces ? `${told.kept} of ${told.pieces} stay` : `${told.pieces}`],
  );
};

export const view: KindView = {
  rows,
  waits: (params) => !(params.tools as unknown[] | undefined)?.length && "choose the other bodies",
};
