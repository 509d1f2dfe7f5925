import { factsOf } from "../api/facts";
import type { KindView } from "./kindView";

const count = (list: unknown, one: string, many: string) => {
  const n = (list as unknown[] | undefined)?.length ?? 0;
  return n ? [`${n} ${n === 1 ? one : many}`] : [];
};

const rows: KindView["rows"] = (facts) => {
  const told = factsOf(facts, "cavity");
  if (!told) return [];
  const gaps = told.gaps ? `, ${told.gaps} at closed gaps` : "";
  return [["Within", `${told.walls} walls, ${told.caps} ${told.caps === 1 ? "cap" : "caps"}${gaps}`]];
};

/** What closes it. */
const instead: KindView["instead"] = (params) =>
  [...count(params.openings, "face", "faces"), ...count(params.closers, "body", "bodies")].join(", ") || "as it is";

export const view: KindView = { rows, instead };
