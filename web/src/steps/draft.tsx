import { factsOf } from "../api/facts";
import { volume } from "../units";
import type { KindView } from "./kindView";

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "draft");
  if (!told) return [];
  const lighter = told.removed >= 0;
  return [
    ["Walls that lean", String(told.faces_drafted)],
    [lighter ? "Taken away" : "Added", volume(Math.abs(told.removed), unit)],
  ];
};

export const view: KindView = { rows, waits: (params) => !params.stays && "choose the plane or face they stay at" };
