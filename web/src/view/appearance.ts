/** How scans and bodies are drawn, and what a click may hit. */
import { create } from "zustand";

interface Appearance {
  scanOpacity: number;
  bodyOpacity: number;
  /** Own opacity of single bodies, where it differs. */
  opacities: Record<string, number>;
  /** Ids of the scan and of bodies that a click passes through. */
  unpickable: string[];
  /** Ids of scans, bodies and steps that are not drawn, and that no click meets. */
  hidden: string[];
  facetEdges: boolean;
  /** Drawn in parallel, not as an eye sees it. */
  parallel: boolean;
  /** The side that a second view shows; none: there is just one. */
  second: string | null;
  /** The scan is coloured by its deviation. */
  coloured: boolean;
  set: (part: Partial<Omit<Appearance, "set">>) => void;
}

export const plainly = {
  scanOpacity: 1,
  bodyOpacity: 1,
  opacities: {},
  unpickable: [],
  hidden: [],
  facetEdges: false,
  parallel: false,
  second: null,
  coloured: false,
};

export const useAppearance = create<Appearance>((set) => ({ ...plainly, set: (part) => set(part) }));
