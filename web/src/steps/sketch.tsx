import { SketchForm } from "../sketch/SketchForm";
import type { KindView } from "./kindView";

export const view: KindView = {
  Form: SketchForm,
  // Its sheet says these beside their ways out.
  shows: (p) => p.code === "no-solution" || p.code === "open-end",
};
