/** What is at hand while one draws: the tool, what was pointed at so far, what is chosen, which snaps are on. */
import { create } from "zustand";
import { useShallow } from "zustand/react/shallow";
import type { Fit, Sheet, Shown, XY } from "./drawing";
import type { FlatFile } from "./flatFile";
import type { Laying } from "./pictures";
import type { Snap, SnapSwitches } from "./snap";

export type Group = "draw" | "change" | "hold";

interface Hand {
  group: Group;
  tool: string | null;
  /** Which way of drawing it: by its corner, by its centre … */
  way: string;
  spots: Snap[];
  /** What the next line goes on from. */
  after: string | null;
  /** The point that the outline under way began at. */
  chain: string | null;
  /** The next piece of the chain is a tangent arc. */
  bend: boolean;
  /** Entities, and demands such as "c:2" and "d:0". */
  chosen: string[];
  /** Profiles that something is to be made of. */
  profiles: string[];
  pointer: Snap | null;
  /** The entity under the pointer, while no tool is in hand. */
  over: string | null;
  /** What was typed for the shape at hand, and for changes. */
  typed: Record<string, string>;
  /** The field at the pointer that has the keyboard. */
  typing: string | null;
  snaps: SnapSwitches;
  sheet: Sheet | null;
  /** Which of the things that can be brought in is pointed at. */
  offered: number | null;
  /** What a drag shows in the place of what is kept. */
  dragged: { points: Record<string, XY>; paths: Record<string, XY[]> } | null;
  /** Two corners of a box that is being drawn around what is to be chosen, in pixels of the view. */
  box: [XY, XY] | null;
  /** How the drawing lies to the section, as it was last asked. */
  fit: Fit | null;
  /** A file that is looked at and not put in yet. */
  read: FlatFile | null;
  /** A file that was dropped on the bench, for the sketch that is open. */
  dropped: File | null;
  /** How strongly pictures under the drawing are shown, 0 to 1. */
  paper: number;
  /** What came of laying a picture, until the next one. */
  laid: Laying | null;
  /** The view is opened at the plane. */
  open: boolean;
  section: boolean;
  set: (part: Partial<Omit<Hand, "set" | "take" | "drop" | "leave">>) => void;
  take: (group: Group, tool: string | null, way?: string) => void;
  /** Back to nothing in hand, snaps as they are. */
  drop: () => void;
  /** Nothing in hand and nothing chosen. */
  leave: () => void;
}

const EMPTY = {
  spots: [],
  after: null,
  chain: null,
  bend: false,
  typed: {},
  typing: null,
  pointer: null,
  over: null,
  offered: null,
  dragged: null,
  box: null,
};

export const useHand = create<Hand>((set) => ({
  group: "draw",
  tool: null,
  way: "",
  ...EMPTY,
  chosen: [],
  profiles: [],
  snaps: { points: true, middles: true, curves: true, evidence: true, directions: true, grid: null },
  sheet: null,
  open: false,
  fit: null,
  read: null,
  dropped: null,
  paper: 0.7,
  laid: null,
  section: true,
  set: (part) => set(part),
  take: (group, tool, way = "") => set({ group, tool, way, ...EMPTY }),
  drop: () => set({ tool: null, way: "", ...EMPTY }),
  leave: () => set({ tool: null, way: "", chosen: [], profiles: [], read: null, laid: null, ...EMPTY }),
}));

/** Some of it, without being asked again whenever the pointer moves. */
export const useHandOf = <K extends keyof Hand>(...names: K[]): Pick<Hand, K> =>
  useHand(useShallow((s) => Object.fromEntries(names.map((n) => [n, s[n]])) as Pick<Hand, K>));

/** A demand's number, where something chosen is one. */
export const demandsIn = (chosen: readonly string[]): string[] => chosen.filter((c) => c.includes(":"));
export const entitiesIn = (shown: Shown, chosen: readonly string[]): string[] =>
  chosen.filter((c) => shown.drawing.entities?.[c]);
