/** One pick that something waits for. */
import { useEffect, useRef } from "react";
import { create } from "zustand";
import type { Vec3 } from "../api/build";
import type { EdgePick, FacePick } from "./picks";
import type { PartRef, SpotMark } from "./spots";

/** Something that waits for one pick in the view: a click meets only what it has an answer for. */
export interface Armed {
  hint: string;
  /** The field that asks, where several ask the same. */
  of?: string;
  onFace?: (pick: FacePick) => void;
  onEdge?: (pick: EdgePick) => void;
  onEdges?: (picks: EdgePick[]) => void;
  onFacet?: (facet: number, at: Vec3) => void;
  /** A spot of a body or a piece of a sketch: which of them are offered, and of sketches above which step. */
  onPart?: (ref: PartRef) => void;
  offers?: { spots: readonly SpotMark[]; pieces: boolean; above: string | null };
}

/** Ends the pick that a field waits for when the field goes: its sheet was kept or closed. */
export function useDisarmed(isMine: (armed: Armed) => boolean): void {
  const mine = useRef(isMine);
  mine.current = isMine;
  useEffect(
    () => () => {
      const { armed, arm } = useArmed.getState();
      if (armed && mine.current(armed)) arm(null);
    },
    [],
  );
}

/** Whether parts of bodies are awaited. */
export const takesBodies = (armed: Armed | null): boolean =>
  armed !== null && Boolean(armed.onFace || armed.onEdge || armed.offers?.spots.length);

export const useArmed = create<{ armed: Armed | null; arm: (armed: Armed | null) => void }>((set) => ({
  armed: null,
  arm: (armed) => set({ armed }),
}));
