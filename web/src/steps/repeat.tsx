import { factsOf } from "../api/facts";
import { length } from "../units";
import type { KindView } from "./kindView";
import { some } from "./rows";

const none = (list: unknown) => !(list as unknown[] | undefined)?.length;
/** What says where members lie, by how they are laid. */
const LAID: Record<string, { field: string; said: string }> = {
  rows: { field: "along", said: "choose what the row goes along: an edge, a line or an axis" },
  circle: { field: "axis", said: "choose what they lie about: an axis, or something round" },
  path: { field: "path", said: "choose the sketch they lie along" },
  mirror: { field: "plane", said: "choose the plane or flat face it is mirrored in" },
};

/** Without what is repeated, or without what says where. */
const waits: KindView["waits"] = (params) => {
  if (params.what === "steps") {
    if (none(params.steps)) return "choose the steps that are done again";
    if (none(params.bodies)) return "choose the bodies they work on";
  } else if (!params.body) return "choose the body that is repeated";
  const laid = LAID[String(params.by ?? "rows")];
  return laid !== undefined && !params[laid.field] && laid.said;
};

const instead: KindView["instead"] = (params) => (params.by === "mirror" ? "mirrored" : null);

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "repeat");
  if (!told) return [];
  const left = told.left_out ? `, ${told.left_out} left out` : "";
  return some(
    ["Members", `${told.members}${left}`],
    told.pitch ? ["Pitch", length(told.pitch, unit)] : false,
    told.angle ? ["Apart by", `${told.angle.toFixed(3).replace(/\.?0+$/, "")}°`] : false,
  );
};

export const view: KindView = { waits, instead, rows };
