/** How the pointer selects. */
import { create } from "zustand";

export type SelectBy = "click" | "lasso" | "brush";

/** What a lasso takes: facets of the scan, or parts of bodies. */
export type SelectWhat = "facets" | "edges" | "faces" | "bodies";

interface Selecting {
  by: SelectBy;
  what: SelectWhat;
  /** What is hidden as well. */
  through: boolean;
  /** Only what lies inside as a whole. */
  whole: boolean;
  set: (part: Partial<Omit<Selecting, "set">>) => void;
}

export const useSelecting = create<Selecting>((set) => ({
  by: "click",
  what: "facets",
  through: false,
  whole: true,
  set: (part) => set(part),
}));
