import { factsOf } from "../api/facts";
import { length } from "../units";
import type { KindView } from "./kindView";
import { some } from "./rows";

const none = (list: unknown) => !(list as unknown[] | undefined)?.length;
/** What says where members lie, by how they are laid. */
const LAID: Record<string, string> = { rows: "along", circle: "axis", path: "path", mirror: "plane" };

/** Without what is repeated, or without what says where. */
const waits: KindView["waits"] = (params) => {
  const nothing = params.what === "steps" ? none(params.steps) || none(params.bodies) : !params.body;
  return nothing || !params[LAID[String(params.by ?? "rows")] ?? "along"];
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
