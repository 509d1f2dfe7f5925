import { factsOf } from "../api/facts";
import { volume } from "../units";
import type { KindView } from "./kindView";

const rows: KindView["rows"] = (facts, unit) => {
  const told = factsOf(facts, "shell");
  return told ? [["Holds", `${volume(told.hollow, unit)}, ${told.walls} faces`]] : [];
};

export const view: KindView = { rows };
