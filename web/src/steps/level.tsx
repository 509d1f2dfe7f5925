import { factsOf } from "../api/facts";
import { signed } from "../units";
import type { KindView } from "./kindView";

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "level");
  if (!told) return [];
  return [
    [told.moved.length === 1 ? "Moved by" : "Moved by, each", told.moved.map((mm) => signed(mm, unit)).join(", ")],
  ];
};

/** How many faces follow says more than how far they may be tilted. */
const instead: KindView["instead"] = (params) => {
  const count = (params.faces as unknown[] | undefined)?.length ?? 0;
  return count === 1 ? "one face" : `${count} faces`;
};

export const view: KindView = { rows, instead };
