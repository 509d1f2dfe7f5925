/** What is being done with a picture: the tool, and the points it has so far. */
import { create } from "zustand";
import type { MarkKind } from "../api/client";

export type Point = [number, number];
export interface Box {
  x: number;
  y: number;
  w: number;
  h: number;
}
export type PhotoTool = "look" | "corners" | "scale" | "check" | "pin" | MarkKind;

interface Photo {
  picture: string | null;
  tool: PhotoTool;
  /** Flat pixels; for the corners, pixels of the photo as it came. */
  points: Point[];
  /** Places of points that lie on a round side of an outline. */
  bends: number[];
  /** The next side of the outline is round: its next point lies on the arc. */
  round: boolean;
  snap: boolean;
  count: number;
  chosen: string | null;
  /** What of the picture is looked at: x, y, width, height; none: all of it. */
  box: Box | null;
  open: (picture: string | null) => void;
  use: (tool: PhotoTool, points?: Point[]) => void;
  set: (part: Partial<Pick<Photo, "points" | "bends" | "round" | "snap" | "count" | "chosen" | "box">>) => void;
}

export const usePhoto = create<Photo>((set) => ({
  picture: null,
  tool: "look",
  points: [],
  bends: [],
  round: false,
  snap: true,
  count: 8,
  chosen: null,
  box: null,
  open: (picture) => set({ picture, tool: "look", points: [], bends: [], round: false, chosen: null, box: null }),
  use: (tool, points = []) => set({ tool, points, bends: [], round: false }),
  set: (part) => set(part),
}));
