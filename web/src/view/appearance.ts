/** How scans and bodies are drawn, and what a click may hit. */
import { create } from "zustand";

interface Appearance {
  scanOpacity: number;
  bodyOpacity: number;
  /** Own opacity of single bodies, where it differs. */
  opacities: Record<string, number>;
  /** Ids of the scan and of bodies that a click passes through. */
  unpickable: string[];
  /** Ids of scans, bodies, steps, readings and probes that are not drawn, and that no click meets. */
  hidden: string[];
  /** Ids of what is drawn only when somebody asks for it, and was. */
  shown: string[];
  facetEdges: boolean;
  /** Drawn in parallel, not as an eye sees it. */
  parallel: boolean;
  /** The side that a second view shows; none: there is just one. */
  second: string | null;
  /** The second view takes half of the room, not a corner. */
  secondWide: boolean;
  /** The scan is coloured by its deviation. */
  coloured: boolean;
  set: (part: Partial<Omit<Appearance, "set" | "hide" | "show">>) => void;
  hide: (ids: readonly string[]) => void;
  show: (ids: readonly string[]) => void;
}

/** Of a scan that bodies or sketches are looked at through. */
export const SEEN_THROUGH = 0.5;

export const plainly = {
  scanOpacity: 1,
  bodyOpacity: 1,
  opacities: {},
  unpickable: [],
  hidden: [],
  shown: [],
  facetEdges: false,
  parallel: false,
  second: null,
  secondWide: false,
  coloured: false,
};

const without = (list: readonly string[], ids: readonly string[]) => list.filter((id) => !ids.includes(id));
const joined = (list: readonly string[], ids: readonly string[]) => [...new Set([...list, ...ids])];

export const useAppearance = create<Appearance>((set) => ({
  ...plainly,
  set: (part) => set(part),
  hide: (ids) => set((s) => ({ hidden: joined(s.hidden, ids), shown: without(s.shown, ids) })),
  show: (ids) => set((s) => ({ hidden: without(s.hidden, ids), shown: joined(s.shown, ids) })),
}));
