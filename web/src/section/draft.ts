/** A section that is being prepared. */
import type { Vec3 } from "../api/build";
import type { TakenLoop } from "./pieces";

export type GapHow = "one piece" | "meet" | "arc" | "line" | "open";

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
  /** What nearly holds among the pieces is asked of them when they are taken. */
  relate: boolean;
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
  turnU: 0,
  turnV: 0,
  several: null,
  clip: false,
  edited: null,
  tolerance: "",
  relate: true,
  bridge: true,
  wishes: [],
  left: null,
};
