/** What is picked in the view, until something is done with it. */
import { create } from "zustand";
import type { Vec3 } from "../api/build";
import type { FaceFacts } from "../api/client";
import type { EdgeFacts } from "./useBorders";

export type SurfaceChoice = "auto" | "plane" | "cylinder" | "cone" | "sphere" | "torus";

export interface FacePick {
  body: string;
  /** Product key of the body as it was picked. */
  key: string;
  index: number;
  face: FaceFacts;
}

export interface EdgePick {
  body: string;
  /** Product key of the body as it was picked. */
  key: string;
  index: number;
  edge: EdgeFacts;
}

export interface BodyPick {
  body: string;
  /** Product key of the body as it was picked. */
  key: string;
}

interface Picks {
  /** Facets of the view's numbering; the first one decides the surface. */
  seeds: number[];
  removed: number[];
  /** Facets drawn around or brushed by hand; nothing grows from them. */
  hand: Uint32Array | null;
  faces: FacePick[];
  edges: EdgePick[];
  bodies: BodyPick[];
  anchor: Vec3 | null;
  surface: SurfaceChoice;
  tolerance: string;
  start: (facet: number, at: Vec3) => void;
  add: (facet: number) => void;
  remove: (facets: number[]) => void;
  setHand: (facets: Uint32Array | null, at: Vec3 | null) => void;
  pickFace: (pick: FacePick, at: Vec3, more: boolean) => void;
  pickEdge: (pick: EdgePick, at: Vec3, more: boolean) => void;
  setParts: (
    parts: { edges?: EdgePick[]; faces?: FacePick[]; bodies?: BodyPick[] },
    at: Vec3 | null,
    how: "replace" | "add" | "take",
  ) => void;
  setSurface: (surface: SurfaceChoice) => void;
  setTolerance: (text: string) => void;
  /** Parts of bodies are let go of; what is picked of the scan stays. */
  dropParts: () => void;
  clear: () => void;
}

/** Parts in hand together with, or without, those found anew. */
function joined<P extends { key: string; index?: number }>(
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
  bodies: [],
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
  setParts: (parts, at, how) =>
    set((s) => ({
      ...nothing,
      edges: joined(s.edges, parts.edges ?? [], how),
      faces: joined(s.faces, parts.faces ?? [], how),
      bodies: joined(s.bodies, parts.bodies ?? [], how),
      anchor: at ?? s.anchor,
    })),
  setSurface: (surface) => set({ surface }),
  setTolerance: (tolerance) => set({ tolerance }),
  dropParts: () => set({ faces: [], edges: [], bodies: [] }),
  clear: () => set(nothing),
}));

/** Whether anything is picked at all. */
export function isPicking({ seeds, hand, faces, edges, bodies }: Picks): boolean {
  return hand !== null || [seeds, faces, edges, bodies].some((list) => list.length > 0);
}
