/** A section that is being prepared. */
import type { Vec3 } from "../api/build";
import type { TakenLoop } from "./pieces";

export type GapHow = "one piece" | "meet" | "square" | "arc" | "line" | "open";

export interface SectionDraft {
  /** A plane's section, the mean half-section about an axis, or the shadow along the normal. */
  source: "section" | "radial" | "silhouette";
  /** The step the plane (for a turned profile: the axis) belongs to; none for a plane free in space. */
  region: string | null;
  /** That step is an axis, and the plane stands square to it. */
  acrossAxis: boolean;
  origin: Vec3;
  normal: Vec3;
  /** The plane that it begins from nearly stands across one of the part's directions: which one, how far off, and its own normal. */
  nearly: { across: string; off: number; normal: Vec3 } | null;
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
  /** What nearly holds among the pieces is asked of them when they are taken. */
  relate: boolean;
  /** Pieces that lie beside walls of bodies by less than the noise are laid on them when they are taken. */
  flush: boolean;
  /** Open loops are closed over gaps of the scan, by proposal; and how single gaps are to be bridged. */
  bridge: boolean;
  wishes: { near: [number, number]; how: GapHow }[];
  /** The middle of the face it was begun from: its own outline is meant, not that of what stands beside it. */
  around?: Vec3 | null;
  /** Piece keys "loop.piece" that are left out; null: nobody has chosen yet (see `leftOut`). */
  left: string[] | null;
}

/** A section as it is opened. */
export const plainSection = {
  source: "section" as const,
  acrossAxis: false,
  turnU: 0,
  turnV: 0,
  nearly: null,
  several: null,
  clip: false,
  edited: null,
  tolerance: "",
  relate: true,
  flush: true,
  bridge: true,
  wishes: [],
  left: null,
};

/** Farther off, degrees, a plane leans on purpose, or the part was not put on its axes by it: at 50 mm that is 0.04 mm. */
const LEANS = 0.05;

/** The direction of the part that a plane nearly stands across, exactly; none where it leans, or stands across it already. */
export function nearlyAcross(normal: Vec3): { axis: Vec3; nearly: NonNullable<SectionDraft["nearly"]> } | null {
  const k = [0, 1, 2].reduce((most, i) => (Math.abs(normal[i]!) > Math.abs(normal[most]!) ? i : most), 0);
  const rest = Math.hypot(...normal.filter((_, i) => i !== k));
  const off = (Math.atan2(rest, Math.abs(normal[k]!)) * 180) / Math.PI;
  if (off > LEANS || off < 1e-9) return null;
  const axis = [0, 1, 2].map((i) => (i === k ? Math.sign(normal[k]!) : 0)) as Vec3;
  return { axis, nearly: { across: "xyz"[k]!, off, normal } };
}

/** Whether the plane is taken to stand exactly where it nearly stands. */
export const isSquared = (draft: Pick<SectionDraft, "nearly" | "normal">) =>
  draft.nearly?.normal.some((x, i) => x !== draft.normal[i]) ?? false;

/** The place on a plane (through a place, with a unit normal) nearest to p. */
export function footOn(through: Vec3, normal: Vec3, p: Vec3): Vec3 {
  const off = p.reduce((sum, x, i) => sum + (x - through[i]!) * normal[i]!, 0);
  return p.map((x, i) => x - off * normal[i]!) as Vec3;
}
