import { useEffect, useRef } from "react";
import { isTyping } from "../ui/typing";
import { copied, pasted } from "./clipboard";
import { mmPerPixel, type Shown } from "./drawing";
import { useHand } from "./store";
import type { Do } from "./stroke";

const BESIDE_PX = 24;

/** Copies what is chosen and pastes it, within a drawing, into another one, or into another job. */
export function useClipboard(shown: Shown | undefined, act: Do) {
  const now = useRef({ shown, act });
  now.current = { shown, act };
  useEffect(() => {
    const copy = (e: ClipboardEvent) => {
      const { shown: drawn } = now.current;
      const text = drawn && !isTyping(e.target) && copied(drawn.drawing, useHand.getState().chosen);
      if (!text) return;
      e.clipboardData?.setData("text/plain", text);
      e.preventDefault();
    };
    const paste = (e: ClipboardEvent) => {
      const { sheet } = useHand.getState();
      if (isTyping(e.target) || !sheet) return;
      const mm = BESIDE_PX * mmPerPixel(sheet);
      const wanted = pasted(e.clipboardData?.getData("text/plain") ?? "", [mm, -mm]);
      if (!wanted) return;
      e.preventDefault();
      void now.current.act([wanted]).then((s) => s && useHand.getState().set({ chosen: [...s.chosen] }));
    };
    window.addEventListener("copy", copy);
    window.addEventListener("paste", paste);
    return () => {
      window.removeEventListener("copy", copy);
      window.removeEventListener("paste", paste);
    };
  }, []);
}
