/** Files dropped on the shelf beside the one that a job begins with: they wait until its bench is open. */
import { create } from "zustand";

interface Waiting {
  files: File[];
  wait: (files: File[]) => void;
  /** All of them, once. */
  take: () => File[];
}

export const useWaiting = create<Waiting>((set, get) => ({
  files: [],
  wait: (files) => set({ files }),
  take: () => {
    const { files } = get();
    if (files.length) set({ files: [] });
    return files;
  },
}));
