import { factsOf } from "../api/facts";
import { length } from "../units";
import type { KindView } from "./kindView";
import { some } from "./rows";

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "coaxial");
  if (!told) return [];
  return some(
    ["Diameter", `${length(told.now, unit, 1)}, it was ${length(told.was, unit, 1)}`],
    told.drill != null && ["Drill", told.drill],
    ["Moved by", length(told.moved, unit, 1)],
    told.tilt > 1e-4 && ["Turned by", `${told.tilt.toFixed(3)}°`],
  );
};

export const view: KindView = { rows, waits: (params) => !params.onto && "choose the axis it is put on" };
