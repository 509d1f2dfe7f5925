/** The grip that is held: where the pointer is, what the value has come to, and what is typed over it. */
import { create } from "zustand";

interface Dragging {
  /** Client pixels; none while nothing is held. */
  at: { x: number; y: number } | null;
  /** The value as it is now, with its unit. */
  said: string;
  /** A figure typed while the grip is held: dragging waits for it. */
  typing: string | null;
  /** Takes what was typed. */
  take: ((text: string) => void) | null;
  /** Goes back to the value from before. */
  leave: (() => void) | null;
  set: (part: Partial<Omit<Dragging, "set">>) => void;
}

export const atRest = { at: null, said: "", typing: null, take: null, leave: null };

export const useDragging = create<Dragging>((set) => ({ ...atRest, set: (part) => set(part) }));
