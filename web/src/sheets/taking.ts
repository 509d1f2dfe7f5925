/** What Enter takes: the open sheet says it, wherever the key is pressed. */
import { useEffect } from "react";
import { create } from "zustand";

type Take = (() => void) | null;

const useTaking = create<{ take: Take }>(() => ({ take: null }));

/** Of a sheet: what Enter does while it is open; nothing as long as there is nothing to take. */
export function useTake(take: Take): void {
  useEffect(() => {
    useTaking.setState({ take });
    return () => useTaking.setState({ take: null });
  }, [take]);
}

export const takeNow = (): void => useTaking.getState().take?.();
