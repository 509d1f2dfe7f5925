import { factsOf } from "../api/facts";
import { length } from "../units";
import type { KindView } from "./kindView";

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "sweep");
  if (!told) return [];
  return [["Path", `${length(told.length, unit)}, ${told.pieces} ${told.pieces === 1 ? "piece" : "pieces"}`]];
};

const waits: KindView["waits"] = (params) =>
  !params.path && !(params.edges as unknown[] | undefined)?.length && "choose what it goes along: a sketch, or edges";

/** What it goes along says more than how far it turns on its way. */
const instead: KindView["instead"] = (params, nameOf) => {
  const path = params.path as { id: string } | null;
  const edges = (params.edges as unknown[] | undefined)?.length ?? 0;
  return `along ${path ? nameOf(path.id) : edges === 1 ? "an edge" : edges ? `${edges} edges` : "…"}`;
};

export const view: KindView = { rows, waits, instead };
