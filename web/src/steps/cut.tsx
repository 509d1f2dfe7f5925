import { factsOf } from "../api/facts";
import type { KindView } from "./kindView";
import { some } from "./rows";

const rows: KindView["rows"] = (facts) => {
  const told = factsOf(facts, "cut");
  if (!told) return [];
  return some((told.pieces ?? 1) > 1 && ["Falls into pieces", `${told.pieces}`]);
};

export const view: KindView = { rows };
