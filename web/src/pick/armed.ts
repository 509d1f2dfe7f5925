/** One pick that something waits for. */
import { create } from "zustand";
import type { Vec3 } from "../api/build";
import type { CornerPick, EdgePick, FacePick } from "./picks";

/** Something that waits for one pick in the view. */
export interface Armed {
  want: "face" | "facet" | "edge" | "corner" | "any";
  hint: string;
  /** The field that asks, where several ask the same. */
  of?: string;
  onFace?: (pick: FacePick) => void;
  onEdge?: (pick: EdgePick) => void;
  onEdges?: (picks: EdgePick[]) => void;
  onCorner?: (pick: CornerPick) => void;
  onFacet?: (facet: number, at: Vec3) => void;
}

export const useArmed = create<{ armed: Armed | null; arm: (armed: Armed | null) => void }>((set) => ({
  armed: null,
  arm: (armed) => set({ armed }),
}));
