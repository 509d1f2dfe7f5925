/** Which scan and which state of the job are on the bench. */
import { create } from "zustand";

interface Seen {
  /** The scan that is shown and worked on, when the job has several. */
  scan: string | null;
  /** The job is shown as it was after this step. */
  asOf: string | null;
  set: (part: Partial<Omit<Seen, "set">>) => void;
}

export const asItIs = { scan: null, asOf: null };

export const useSeen = create<Seen>((set) => ({ ...asItIs, set: (part) => set(part) }));
