import { factsOf } from "../api/facts";
import { length } from "../units";
import type { KindView } from "./kindView";
import { some } from "./rows";

/** By its sizes, or the nearest: what they come to stands in the facts. */
const instead: KindView["instead"] = (params) => {
  if (params.size === "typed") return "by its sizes";
  return params.thread ? null : "nearest";
};

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "threaded");
  if (!told) return [];
  const turns = told.turns.toFixed(2).replace(/\.?0+$/, "");
  return some(
    told.designation ? ["Thread", told.designation] : false,
    [told.inside ? "In its roots" : "Over its crests", `Ø ${length(told.major, unit, 1)}`],
    [told.inside ? "Between its crests" : "In its roots", `Ø ${length(told.minor, unit, 1)}`],
    ["Length", `${length(told.length, unit)}, ${turns} turns`],
    !told.real && ["Flanks", "only noted"],
  );
};

const waits: KindView["waits"] = (params) => !params.face && "pick the round face of a shaft or a hole";

export const view: KindView = { instead, rows, waits };
