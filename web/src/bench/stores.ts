/** Small stores: what is picked, which tool is open, how the view looks. Server data is never in here. */
import { create } from "zustand";
import type { Vec3 } from "../api/build";

export type SurfaceChoice = "auto" | "plane" | "cylinder";

interface Picks {
  /** Facets of the view's numbering; the first one decides the surface. */
  seeds: number[];
  removed: number[];
  anchor: Vec3 | null;
  surface: SurfaceChoice;
  tolerance: string;
  start: (facet: number, at: Vec3) => void;
  add: (facet: number) => void;
  remove: (facets: number[]) => void;
  setSurface: (surface: SurfaceChoice) => void;
  setTolerance: (text: string) => void;
  clear: () => void;
}

const nothing = { seeds: [], removed: [], anchor: null, surface: "auto" as const, tolerance: "" };

export const usePicks = create<Picks>((set) => ({
  ...nothing,
  start: (facet, anchor) => set({ ...nothing, seeds: [facet], anchor }),
  add: (facet) => set((s) => ({ seeds: [...s.seeds, facet] })),
  remove: (facets) => set((s) => ({ removed: [...new Set([...s.removed, ...facets])] })),
  setSurface: (surface) => set({ surface }),
  setTolerance: (tolerance) => set({ tolerance }),
  clear: () => set(nothing),
}));

export interface SectionDraft {
  region: string;
  origin: Vec3;
  normal: Vec3;
  offset: string;
  tolerance: string;
  /** Piece keys "loop.piece" that are left out. */
  left: string[];
}

export interface ExtrudeDraft {
  sketch: string;
  distance: string;
  symmetric: boolean;
  operation: "new" | "add" | "subtract";
  body: string | null;
}

interface ToolState {
  section: SectionDraft | null;
  extrude: ExtrudeDraft | null;
  step: string | null;
  delivering: boolean;
  openSection: (draft: SectionDraft) => void;
  setSection: (part: Partial<SectionDraft>) => void;
  openExtrude: (draft: ExtrudeDraft) => void;
  setExtrude: (part: Partial<ExtrudeDraft>) => void;
  select: (step: string | null) => void;
  deliver: (open: boolean) => void;
  close: () => void;
}

const shut = { section: null, extrude: null, step: null, delivering: false };

export const useTool = create<ToolState>((set) => ({
  ...shut,
  openSection: (section) => set({ ...shut, section }),
  setSection: (part) => set((s) => ({ section: s.section && { ...s.section, ...part } })),
  openExtrude: (extrude) => set({ ...shut, extrude, step: extrude.sketch }),
  setExtrude: (part) => set((s) => ({ extrude: s.extrude && { ...s.extrude, ...part } })),
  select: (step) => set({ ...shut, step }),
  deliver: (delivering) => set({ ...shut, delivering }),
  close: () => set(shut),
}));

export interface Probe {
  point: Vec3;
  deviation: number;
}

interface Look {
  scanOpacity: number;
  bodyOpacity: number;
  facetEdges: boolean;
  coloured: boolean;
  probe: Probe | null;
  set: (part: Partial<Omit<Look, "set">>) => void;
}

export const useLook = create<Look>((set) => ({
  scanOpacity: 1,
  bodyOpacity: 1,
  facetEdges: false,
  coloured: false,
  probe: null,
  set: (part) => set(part),
}));

export function resetBench() {
  usePicks.getState().clear();
  useTool.getState().close();
  useLook.setState({ scanOpacity: 1, bodyOpacity: 1, facetEdges: false, coloured: false, probe: null });
}
