import { factsOf } from "../api/facts";
import { length } from "../units";
import type { KindView } from "./kindView";

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "coil");
  if (!told) return [];
  return [
    ["Turns", told.turns.toFixed(3).replace(/\.?0+$/, "")],
    ["Rises by", length(Math.abs(told.rise), unit)],
  ];
};

export const view: KindView = { rows, waits: (params) => !params.axis && "choose the axis it winds about" };
