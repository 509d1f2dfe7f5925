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
  /** That step as its sheet was opened, and the last one that was closed with something chosen in it: it can be taken up again. */
  begun: StepDraft | null;
  putDown: StepDraft | null;
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
  /** What was being prepared is in the job now. */
  kept: () => void;
  takeUp: () => void;
  forget: () => void;
}

const shut = { section: null, draft: null, begun: null, step: null, panel: null, repair: null, copied: null };

/** Everything closed; a step that somebody had begun to fill in is put down, not lost. */
const closed = ({ draft, begun, putDown }: ToolState) => ({
  ...shut,
  putDown: draft && draft !== begun ? draft : putDown,
});

export const useTool = create<ToolState>((set) => ({
  ...shut,
  putDown: null,
  openSection: (section) => set((s) => ({ ...closed(s), section })),
  setSection: (part) => set((s) => ({ section: s.section && { ...s.section, ...part } })),
  recut: (part) =>
    set((s) => ({ section: s.section && { ...s.section, wishes: [], ...part, left: null, edited: null } })),
  openDraft: (draft) => {
    // What it begins with is in its parameters now.
    usePicks.getState().dropParts();
    set((s) => ({ ...closed(s), draft, begun: draft }));
  },
  setDraft: (part) => set((s) => ({ draft: s.draft && { ...s.draft, params: { ...s.draft.params, ...part } } })),
  select: (step) => set((s) => ({ ...closed(s), step })),
  open: (panel) => set((s) => ({ ...closed(s), panel })),
  mend: (step, place) => set((s) => ({ ...closed(s), repair: { step, place } })),
  copy: (copied) => set((s) => ({ ...closed(s), copied })),
  close: () => set(closed),
  kept: () => set(shut),
  takeUp: () => set((s) => ({ ...shut, draft: s.putDown, putDown: null })),
  forget: () => set({ putDown: null }),
}));
