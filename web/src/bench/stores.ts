/** Small stores: what is picked, which tool is open, how the view looks. Server data is never in here. */
import { create } from "zustand";
import type { StepState, Vec3 } from "../api/build";
import type { FaceFacts, Problem } from "../api/client";
import type { CornerFacts, EdgeFacts } from "../pick/useBorders";
import type { TakenLoop } from "../section/pieces";

export type SurfaceChoice = "auto" | "plane" | "cylinder" | "cone" | "sphere" | "torus";

export interface FacePick {
  body: string;
  /** Product key of the body as it was picked. */
  key: string;
  index: number;
  face: FaceFacts;
}

export interface CornerPick {
  body: string;
  corner: CornerFacts;
}

export interface EdgePick {
  body: string;
  /** Product key of the body as it was picked. */
  key: string;
  index: number;
  edge: EdgeFacts;
}

interface Picks {
  /** Facets of the view's numbering; the first one decides the surface. */
  seeds: number[];
  removed: number[];
  /** Facets drawn around or brushed by hand; nothing grows from them. */
  hand: Uint32Array | null;
  faces: FacePick[];
  edges: EdgePick[];
  anchor: Vec3 | null;
  surface: SurfaceChoice;
  tolerance: string;
  start: (facet: number, at: Vec3) => void;
  add: (facet: number) => void;
  remove: (facets: number[]) => void;
  setHand: (facets: Uint32Array | null, at: Vec3 | null) => void;
  pickFace: (pick: FacePick, at: Vec3, more: boolean) => void;
  pickEdge: (pick: EdgePick, at: Vec3, more: boolean) => void;
  setEdges: (edges: EdgePick[]) => void;
  setParts: (
    parts: { edges?: EdgePick[]; faces?: FacePick[] },
    at: Vec3 | null,
    how: "replace" | "add" | "take",
  ) => void;
  setSurface: (surface: SurfaceChoice) => void;
  setTolerance: (text: string) => void;
  clear: () => void;
}

/** Parts in hand together with, or without, those found anew. */
function joined<P extends { key: string; index: number }>(
  old: readonly P[],
  found: readonly P[],
  how: "replace" | "add" | "take",
): P[] {
  const same = (a: P) => (b: P) => a.key === b.key && a.index === b.index;
  if (how === "replace") return [...found];
  const rest = old.filter((p) => !found.some(same(p)));
  return how === "take" ? rest : [...rest, ...found];
}

const nothing = {
  seeds: [],
  removed: [],
  hand: null,
  faces: [],
  edges: [],
  anchor: null,
  surface: "auto" as const,
  tolerance: "",
};

export const usePicks = create<Picks>((set) => ({
  ...nothing,
  start: (facet, anchor) => set({ ...nothing, seeds: [facet], anchor }),
  add: (facet) => set((s) => ({ seeds: [...s.seeds, facet] })),
  remove: (facets) => set((s) => ({ removed: [...new Set([...s.removed, ...facets])] })),
  setHand: (hand, anchor) => set({ ...nothing, hand, anchor }),
  pickFace: (pick, anchor, more) =>
    set((s) => {
      const same = (f: FacePick) => f.key === pick.key && f.index === pick.index;
      const rest = more ? s.faces.filter((f) => !same(f)) : [];
      const again = more && s.faces.some(same);
      return { ...nothing, faces: again ? rest : [...rest, pick], anchor };
    }),
  pickEdge: (pick, anchor, more) =>
    set((s) => {
      const same = (e: EdgePick) => e.key === pick.key && e.index === pick.index;
      const rest = more ? s.edges.filter((e) => !same(e) && e.body === pick.body) : [];
      const again = more && s.edges.some(same);
      return { ...nothing, edges: again ? rest : [...rest, pick], anchor };
    }),
  setEdges: (edges) => set({ edges }),
  setParts: (parts, at, how) =>
    set((s) => ({
      ...nothing,
      edges: joined(s.edges, parts.edges ?? [], how),
      faces: joined(s.faces, parts.faces ?? [], how),
      anchor: at ?? s.anchor,
    })),
  setSurface: (surface) => set({ surface }),
  setTolerance: (tolerance) => set({ tolerance }),
  clear: () => set(nothing),
}));

export interface SectionDraft {
  /** A plane's section, the mean half-section about an axis, or the shadow along the normal. */
  source: "section" | "radial" | "silhouette";
  /** The step the plane (for a turned profile: the axis) belongs to; none for a plane free in space. */
  region: string | null;
  origin: Vec3;
  normal: Vec3;
  offset: string;
  /** Turned about the plane's own axes, degrees. */
  turnU: number;
  turnV: number;
  outward?: Vec3;
  several: {
    kind: "parallel" | "fan";
    count: number;
    step: number;
    axisRef?: string;
    axis?: Vec3;
    axisOrigin?: Vec3;
  } | null;
  /** What lies in front of the plane is not drawn. */
  clip: boolean;
  /** The structure of the outline, when pieces were changed by hand. */
  edited: TakenLoop[] | null;
  /** Where the offset comes from, when it was chosen and not typed. */
  mark?: string;
  note?: string;
  tolerance: string;
  /** Piece keys "loop.piece" that are left out. */
  left: string[];
}

/** A section as it is opened. */
export const plainSection = {
  source: "section" as const,
  turnU: 0,
  turnV: 0,
  several: null,
  clip: false,
  edited: null,
  tolerance: "",
  left: [],
};

/** A step that is being prepared: nothing of it is in the job yet. */
export interface StepDraft {
  kind: string;
  params: Record<string, unknown>;
}

export type Panel =
  | "deliver"
  | "checkpoints"
  | "values"
  | "scan"
  | "scanner"
  | "desk"
  | "photo"
  | "regions"
  | "measure";

interface ToolState {
  section: SectionDraft | null;
  draft: StepDraft | null;
  step: string | null;
  panel: Panel | null;
  /** A reference of a step that is being mended. */
  repair: { step: string; place: string } | null;
  openSection: (draft: SectionDraft) => void;
  setSection: (part: Partial<SectionDraft>) => void;
  openDraft: (draft: StepDraft) => void;
  setDraft: (part: Record<string, unknown>) => void;
  select: (step: string | null) => void;
  open: (panel: Panel | null) => void;
  mend: (step: string, place: string) => void;
  close: () => void;
}

const shut = { section: null, draft: null, step: null, panel: null, repair: null };

export const useTool = create<ToolState>((set) => ({
  ...shut,
  openSection: (section) => set({ ...shut, section }),
  setSection: (part) => set((s) => ({ section: s.section && { ...s.section, ...part } })),
  openDraft: (draft) => set({ ...shut, draft }),
  setDraft: (part) => set((s) => ({ draft: s.draft && { ...s.draft, params: { ...s.draft.params, ...part } } })),
  select: (step) => set({ ...shut, step }),
  open: (panel) => set({ ...shut, panel }),
  mend: (step, place) => set({ ...shut, repair: { step, place } }),
  close: () => set(shut),
}));

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

export type SelectBy = "click" | "lasso" | "brush";

/** What a lasso takes: facets of the scan, or parts of bodies. */
export type SelectWhat = "facets" | "edges" | "faces";

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

export interface ProbeHere {
  point: Vec3;
  deviation: number;
  facet: number;
}

/** Bodies that a value being typed would make, as view buffers. */
export interface PreviewBody {
  id: string;
  key: string;
  colour: string | null;
  view: string | null;
}

/** What moved between two states, coloured. */
export interface MovedMap {
  url: string;
  largest: number;
}

/** A finding of the scan's health that is shown in the view. */
export interface Marked {
  point: Vec3;
  size: number;
  facets: number[];
}

/** Where an alignment that is being prepared would lay the scan (4x4, from the scan as shown), and what it says of it. */
export interface Laid {
  matrix: number[][];
  facts: Record<string, unknown>;
}

interface Look {
  /** The scan that is shown and worked on, when the job has several. */
  scan: string | null;
  marked: Marked | null;
  /** What steps that are only being prepared have found, by their id. */
  passing: Record<string, Record<string, unknown>>;
  laid: Laid | null;
  /** Grips of a step that is only being prepared. */
  handles: StepState["handles"];
  /** Residuals of the region whose sheet is open, mm per facet. */
  residuals: { facets: Uint32Array; values: Float32Array; still: number } | null;
  /** A preview is being worked out; why the last one came to nothing. */
  looking: boolean;
  refused: Problem | null;
  scanOpacity: number;
  bodyOpacity: number;
  /** Own opacity of single bodies, where it differs. */
  opacities: Record<string, number>;
  /** Ids of the scan and of bodies that a click passes through. */
  unpickable: string[];
  facetEdges: boolean;
  coloured: boolean;
  probe: ProbeHere | null;
  /** The job is shown as it was after this step. */
  asOf: string | null;
  preview: PreviewBody[] | null;
  moved: MovedMap | null;
  /** A face shown as an offer, by the body's id and the face's name. */
  offered: { body: string; name: string } | null;
  set: (part: Partial<Omit<Look, "set">>) => void;
}

const plain = {
  scan: null,
  marked: null,
  passing: {},
  laid: null,
  handles: [],
  residuals: null,
  looking: false,
  refused: null,
  scanOpacity: 1,
  bodyOpacity: 1,
  opacities: {},
  unpickable: [],
  facetEdges: false,
  coloured: false,
  probe: null,
  asOf: null,
  preview: null,
  moved: null,
  offered: null,
};

export const useLook = create<Look>((set) => ({ ...plain, set: (part) => set(part) }));

export function resetBench() {
  usePicks.getState().clear();
  useTool.getState().close();
  useArmed.getState().arm(null);
  useSelecting.getState().set({ by: "click", through: false });
  useLook.setState(plain);
}
