/** What the pointer is over: kept apart from everything else, so that only the highlight is drawn again when it moves. */
import { create } from "zustand";

export interface HoveredEdge {
  key: string;
  edge: number;
}

export const useHover = create<{ edge: HoveredEdge | null; over: (edge: HoveredEdge | null) => void }>((set, get) => ({
  edge: null,
  over: (edge) => {
    const now = get().edge;
    if (now?.key !== edge?.key || now?.edge !== edge?.edge) set({ edge });
  },
}));
