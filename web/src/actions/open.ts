/** Which of the lists of actions is open. */
import { create } from "zustand";

type Open = "search" | "keys" | "sides" | null;

export const useOpenList = create<{ open: Open; set: (open: Open) => void }>((set) => ({
  open: null,
  set: (open) => set({ open }),
}));
