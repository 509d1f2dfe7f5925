/** Which sheet is open, and what is being prepared in it. */
import { create } from "zustand";
import { usePicks } from "../pick/picks";
import type { SectionDraft } from "../section/draft";

/** A step that is being prepared: nothing of it is in the job yet. */
export interface StepDraft {
  kind: string;
  params: Record<string, unknown>;
}

export type Panel =
  | "deliver"
  | "checkpoints"
  | "values"
  | "variants"
  | "scan"
  | "scanner"
  | "desk"
  | "photo"
  | "regions"
  | "measure";

interface ToolState {
  section: SectionDraft | null;
  draft: StepDraft | null;
  step: string | null;
  panel: Panel | null;
  /** A reference of a step that is being mended. */
  repair: { step: string; place: string } | null;
  /** Steps that are being duplicated. */
  copied: readonly string[] | null;
  openSection: (draft: SectionDraft) => void;
  setSection: (part: Partial<SectionDraft>) => void;
  /** Another plane or tolerance: what was chosen among the pieces of the old cut means nothing any more. */
  recut: (part: Partial<SectionDraft>) => void;
  openDraft: (draft: StepDraft) => void;
  setDraft: (part: Record<string, unknown>) => void;
  select: (step: string | null) => void;
  open: (panel: Panel | null) => void;
  mend: (step: string, place: string) => void;
  copy: (steps: readonly string[]) => void;
  close: () => void;
}

const shut = { section: null, draft: null, step: null, panel: null, repair: null, copied: null };

export const useTool = create<ToolState>((set) => ({
  ...shut,
  openSection: (section) => set({ ...shut, section }),
  setSection: (part) => set((s) => ({ section: s.section && { ...s.section, ...part } })),
  recut: (part) =>
    set((s) => ({ section: s.section && { ...s.section, wishes: [], ...part, left: null, edited: null } })),
  openDraft: (draft) => {
    // What it begins with is in its parameters now.
    usePicks.getState().dropParts();
    set({ ...shut, draft });
  },
  setDraft: (part) => set((s) => ({ draft: s.draft && { ...s.draft, params: { ...s.draft.params, ...part } } })),
  select: (step) => set({ ...shut, step }),
  open: (panel) => set({ ...shut, panel }),
  mend: (step, place) => set({ ...shut, repair: { step, place } }),
  copy: (copied) => set({ ...shut, copied }),
  close: () => set(shut),
}));
