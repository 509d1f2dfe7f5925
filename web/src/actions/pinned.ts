/** Actions that somebody has pinned: kept by the browser, on every job. */
import { create } from "zustand";

const KEPT = "pinned-actions";
/** More than that is no short row any more. */
const MOST = 8;

function kept(): string[] {
  try {
    const list: unknown = JSON.parse(window.localStorage.getItem(KEPT) ?? "[]");
    return Array.isArray(list) ? list.filter((x): x is string => typeof x === "string").slice(0, MOST) : [];
  } catch {
    return []; // something else has written there
  }
}

interface Pinned {
  ids: string[];
  /** Pins, or takes the pin away; the oldest goes when there are too many. */
  toggle: (id: string) => void;
}

export const usePinned = create<Pinned>((set) => ({
  ids: kept(),
  toggle: (id) =>
    set(({ ids }) => {
      const next = ids.includes(id) ? ids.filter((x) => x !== id) : [...ids, id].slice(-MOST);
      window.localStorage.setItem(KEPT, JSON.stringify(next));
      return { ids: next };
    }),
}));
