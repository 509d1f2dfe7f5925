import { factsOf } from "../api/facts";
import { length } from "../units";
import type { KindView } from "./kindView";
import { MouthOfRegion } from "./MouthOfRegion";
import { some } from "./rows";

const none = (list: unknown) => !(list as unknown[] | undefined)?.length;

/** Without a face or a place, or until something that has not been chosen yet. */
const waits: KindView["waits"] = (params) => {
  if (!params.face) return "pick the face it is drilled from";
  if (params.by === "points" && none(params.points)) return "pick corners, centres or points";
  if (params.by === "axes" && none(params.axes)) return "pick fitted holes, round faces or axes";
  return params.extent === "until" && !params.until_region && !params.until_face && "choose what it ends at";
};

/** A screw says more than the width that follows from it. */
const instead: KindView["instead"] = (params) => {
  if (params.size === "clearance") return `for ${params.screw ?? "M6"}`;
  return params.size === "tapped" ? `${params.screw ?? "M6"}` : null;
};

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "hole");
  if (!told) return [];
  return some(
    ["Holes", String(told.count)],
    ["Width", `Ø ${length(told.diameter, unit)}${told.drill ? `, drill ${told.drill}` : ""}`],
    told.thread ? ["Screw", told.thread] : false,
    told.mouth > told.diameter && ["At its mouth", `Ø ${length(told.mouth, unit)}`],
    told.depth ? ["Full width to", `${length(told.depth, unit)} deep`] : false,
    told.circle ? ["Circle", `Ø ${length(told.circle, unit)}`] : false,
    told.off ? ["Worst member off its place", length(told.off, unit, 1)] : false,
  );
};

export const view: KindView = { waits, instead, rows, slots: { face: MouthOfRegion } };
