/** The last search for regions: what was found, its labels, and what of it is chosen or hidden. */
import { create } from "zustand";
import type { Found } from "./facts";

interface Regions {
  task: string | null;
  /** Key of the scan's state it belongs to. */
  scan: string | null;
  found: Found | null;
  labels: Int32Array | null;
  chosen: number[];
  hidden: string[];
  coarseness: number;
  /** mm², as typed; empty: by the facets. */
  least: string;
  set: (part: Partial<Omit<Regions, "set" | "clear">>) => void;
  clear: () => void;
}

const none = { task: null, scan: null, found: null, labels: null, chosen: [], hidden: [] };

export const useRegions = create<Regions>((set) => ({
  ...none,
  coarseness: 1,
  least: "",
  set: (part) => set(part),
  clear: () => set(none),
}));

export const facetsOf = (labels: Int32Array, ids: number[]): Uint32Array => {
  const wanted = new Set(ids);
  const out: number[] = [];
  for (let f = 0; f < labels.length; f++) if (wanted.has(labels[f]!)) out.push(f);
  return Uint32Array.from(out);
};
