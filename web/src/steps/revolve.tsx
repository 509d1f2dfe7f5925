import { factsOf } from "../api/facts";
import { length } from "../units";
import type { KindView } from "./kindView";
import { some } from "./rows";

const LEAST = 1e-6;

/** Until something: then the angle only says which way. */
const instead: KindView["instead"] = (params, nameOf) => {
  if (params.extent !== "until") return null;
  const region = params.until_region as { id: string } | null;
  const face = params.until_face as { body: string; kind: string } | null;
  return `ends at ${region ? nameOf(region.id) : face ? `${face.kind || "face"} of ${nameOf(face.body)}` : "…"}`;
};

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "revolve");
  if (!told) return [];
  return some(
    told.off > LEAST && ["Axis moved into the plane", length(told.off, unit, 1)],
    told.tilt > LEAST && ["and turned into it", `${told.tilt.toFixed(3)}°`],
  );
};

/** Without an axis, or until something that has not been chosen yet. */
const waits: KindView["waits"] = (params) => {
  if (!params.axis) return "choose the axis: a line of the sketch, an edge, or something round";
  return (
    params.extent === "until" && !params.until_region && !params.until_face && "choose the plane or face it ends at"
  );
};

export const view: KindView = { instead, rows, waits };
