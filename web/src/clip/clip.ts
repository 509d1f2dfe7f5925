/** What is cut away from the view: by the section that is being laid, or by a section view that stays on. */
import { Plane, Vector3 } from "three";
import { create } from "zustand";
import type { Vec3 } from "../api/build";

/** A section view: what lies on the side that `normal` points to is not drawn. */
export interface SectionView {
  /** What it stands square to, in words. */
  along: "x" | "y" | "z" | "chosen";
  origin: Vec3;
  normal: Vec3;
  /** From the origin along the normal, mm. */
  offset: number;
  /** The other side is cut away. */
  flipped: boolean;
}

interface Clip {
  lasting: SectionView | null;
  /** While a section is laid its own plane has the view. */
  passing: Plane | null;
  set: (lasting: SectionView | null) => void;
  change: (part: Partial<SectionView>) => void;
  pass: (passing: Plane | null) => void;
}

export const useClip = create<Clip>((set) => ({
  lasting: null,
  passing: null,
  set: (lasting) => set({ lasting }),
  change: (part) => set((s) => ({ lasting: s.lasting && { ...s.lasting, ...part } })),
  pass: (passing) => set({ passing }),
}));

/** A point of the plane, and the way that is cut away. */
export function cutOf(view: SectionView): { at: Vec3; away: Vec3 } {
  const size = Math.hypot(...view.normal) || 1;
  const n = view.normal.map((x) => x / size) as Vec3;
  const at = view.origin.map((x, i) => x + view.offset * n[i]!) as Vec3;
  return { at, away: view.flipped ? (n.map((x) => -x) as Vec3) : n };
}

/** The plane whose back is drawn, as three.js clips by it: it keeps where its normal points. */
export function planeOf(view: SectionView): Plane {
  const { at, away } = cutOf(view);
  return new Plane().setFromNormalAndCoplanarPoint(new Vector3(...away).negate(), new Vector3(...at));
}

const NONE: Plane[] = [];
let made: { of: SectionView | Plane | null; planes: Plane[] } = { of: null, planes: NONE };

/** The planes that materials clip by now; the same list as long as nothing changes. */
export function clipPlanes(state: Pick<Clip, "lasting" | "passing"> = useClip.getState()): Plane[] {
  const of = state.passing ?? state.lasting;
  if (made.of !== of) made = { of, planes: of ? [of instanceof Plane ? of : planeOf(of)] : NONE };
  return made.planes;
}

export const useClipPlanes = (): Plane[] => useClip((s) => clipPlanes(s));

/** Whether a place is drawn: on the kept side, or on the cut itself. */
export function isKept(p: Vec3): boolean {
  const [plane] = clipPlanes();
  return !plane || plane.distanceToPoint(new Vector3(...p)) > -1e-6 * (1 + Math.hypot(...p));
}
