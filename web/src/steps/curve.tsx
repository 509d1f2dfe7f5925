import { factsOf } from "../api/facts";
import { length } from "../units";
import type { KindView } from "./kindView";

const count = (params: Record<string, unknown>) => (params.points as unknown[] | undefined)?.length ?? 0;

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "curve");
  if (!told) return [];
  return [
    ["Along it", length(told.length, unit)],
    ...(told.tightest == null ? [] : [["Tightest bend", length(told.tightest, unit)] as [string, string]]),
  ];
};

export const view: KindView = {
  rows,
  instead: (params) => `through ${count(params)} points`,
  waits: (params) => count(params) < 2 && "pick two points or more that it goes through",
};
