/** What is being done with a picture: the tool, and the points it has so far. */
import { create } from "zustand";
import type { MarkKind } from "../api/client";

export type Point = [number, number];
export type PhotoTool = "look" | "corners" | "scale" | "check" | MarkKind;

interface Photo {
  picture: string | null;
  tool: PhotoTool;
  /** Flat pixels; for the corners, pixels of the photo as it came. */
  points: Point[];
  snap: boolean;
  count: number;
  chosen: string | null;
  open: (picture: string | null) => void;
  use: (tool: PhotoTool, points?: Point[]) => void;
  set: (part: Partial<Pick<Photo, "points" | "snap" | "count" | "chosen">>) => void;
}

export const usePhoto = create<Photo>((set) => ({
  picture: null,
  tool: "look",
  points: [],
  snap: true,
  count: 8,
  chosen: null,
  open: (picture) => set({ picture, tool: "look", points: [], chosen: null }),
  use: (tool, points = []) => set({ tool, points }),
  set: (part) => set(part),
}));
