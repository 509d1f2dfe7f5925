/** What is pointed out in the view: findings, maps, offers. */
import { create } from "zustand";
import type { Vec3 } from "../api/build";

export interface ProbeHere {
  point: Vec3;
  deviation: number;
  facet: number;
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

interface Pointed {
  marked: Marked | null;
  moved: MovedMap | null;
  /** Residuals of the region whose sheet is open, mm per facet. */
  residuals: { facets: Uint32Array; values: Float32Array; still: number } | null;
  /** How noisy a scan is around every facet, mm; still: what is no news, somewhat above its noise as a whole. */
  noise: { scan: string; facets: Uint32Array; values: Float32Array; still: number } | null;
  probe: ProbeHere | null;
  /** A face shown as an offer, by the body's id and the face's name. */
  offered: { body: string; name: string } | null;
  set: (part: Partial<Omit<Pointed, "set">>) => void;
}

export const nothingPointed = { marked: null, moved: null, residuals: null, noise: null, probe: null, offered: null };

export const usePointed = create<Pointed>((set) => ({ ...nothingPointed, set: (part) => set(part) }));
