import { factsOf } from "../api/facts";
import { signed, volume } from "../units";
import type { KindView } from "./kindView";

/** To a size, or until something: then the distance plays no part. */
const instead: KindView["instead"] = (params) => {
  if (params.by === "size") return `to ${(params.size as { text?: string } | null)?.text || "…"}`;
  return params.by === "until" ? "ends at …" : null;
};

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "shift");
  if (!told) return [];
  const ways = [...new Set(told.moved.map((mm) => signed(mm, unit)))];
  return [
    [told.moved.length === 1 ? "Moved by" : `${told.moved.length} faces moved by`, ways.join(", ")],
    [told.added < 0 ? "Taken away" : "Added", volume(Math.abs(told.added), unit)],
  ];
};

export const view: KindView = {
  instead,
  rows,
  waits: (params) => !(params.faces as unknown[] | undefined)?.length && "pick the faces that move",
};
