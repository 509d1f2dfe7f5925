import { SketchForm } from "../sketch/SketchForm";
import type { KindView } from "./kindView";

export const view: KindView = {
  Form: SketchForm,
  draws: true,
  // Its sheet says where it is open, and closes it.
  shows: (p) => p.code === "open-end",
};
