import { factsOf } from "../api/facts";
import { length } from "../units";
import type { KindView } from "./kindView";
import { some } from "./rows";

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "move");
  if (!told) return [];
  return some(
    ["Its middle moved by", length(told.moved, unit)],
    told.turned > 1e-6 && ["Turned by", `${told.turned.toFixed(3)}°`],
    Math.abs(told.factor - 1) > 1e-9 && ["Every length times", String(Number(told.factor.toPrecision(6)))],
  );
};

const waits: KindView["waits"] = (params) => {
  if (params.by === "points") return !params.start || !params.end;
  if (params.by === "faces") return !params.own_face || !params.onto_face;
  return params.by === "axes" && (!params.own_axis || !params.onto);
};

export const view: KindView = { rows, waits };
