import { factsOf } from "../api/facts";
import type { KindView } from "./kindView";

const rows: KindView["rows"] = (facts) => {
  const told = factsOf(facts, "loft");
  if (!told) return [];
  return [["Through", `${told.sections} sections, ${told.walls} walls`]];
};

const count = (params: Record<string, unknown>) =>
  ((params.sections as unknown[] | undefined)?.length ?? 0) + Number(!!params.from_face) + Number(!!params.to_face);

export const view: KindView = {
  rows,
  waits: (params) => count(params) < 2 && "choose two sections or more: sketches, or flat faces",
};
