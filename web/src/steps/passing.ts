/** What a step that is only being prepared, or a value that is being typed, would give. */
import { create } from "zustand";
import type { Figures, StepFacts, StepState } from "../api/build";
import type { Problem } from "../api/client";

/** Bodies that a value being typed would make, as view buffers. */
export interface PreviewBody {
  id: string;
  key: string;
  colour: string | null;
  view: string | null;
  /** Names of its faces, by the view's numbers. */
  names: readonly string[];
  /** Numbers of the faces that the step being prepared makes. */
  fresh: readonly number[];
}

/** Where an alignment that is being prepared would lay the scan (4x4, from the scan as shown), and what it says of it. */
export interface Laid {
  matrix: number[][];
  facts: StepFacts;
}

interface Passing {
  /** What these steps have found, by their id. */
  passing: Record<string, StepFacts>;
  laid: Laid | null;
  handles: StepState["handles"];
  preview: PreviewBody[] | null;
  /** How that would fit the scan, by a sample of it: none before it is worked out. */
  fit: Figures | null;
  /** Another fit is on its way: that one is of what was typed before. */
  fitting: boolean;
  /** What was shown of the change that was made last, and the revision it gave: none while it is on its way. */
  awaited: { bodies: PreviewBody[]; revision: number | null } | null;
  /** What all this is of: parameters, or the steps that are copied; none while another is being worked out. */
  settled: unknown;
  /** It is kept as soon as what is shown is of it. */
  keeping: boolean;
  /** It is being worked out; why the last one came to nothing. */
  looking: boolean;
  refused: Problem | null;
  /** Steps that the preview does without, by their id: they would take too long. */
  without: readonly string[];
  set: (part: Partial<Omit<Passing, "set">>) => void;
}

export const nothingPassing = {
  passing: {},
  laid: null,
  handles: [],
  preview: null,
  fit: null,
  fitting: false,
  awaited: null,
  settled: null,
  keeping: false,
  looking: false,
  refused: null,
  without: [] as readonly string[],
};

export const usePassing = create<Passing>((set) => ({ ...nothingPassing, set: (part) => set(part) }));
