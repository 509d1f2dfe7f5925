import { useEffect, useRef } from "react";
import { useSeen } from "../job/seen";
import { usePhoto } from "../photo/store";
import { useArmed } from "../pick/armed";
import { isPicking, usePicks } from "../pick/picks";
import { takeNow } from "../sheets/taking";
import { useTool } from "../sheets/tool";
import { isTyping } from "../ui/typing";

interface Acts {
  move: (direction: "undo" | "redo") => void;
}

/** Escape steps back one level: what waits for a pick, what is picked, the sheet, the earlier state. */
function stepBack() {
  const tool = useTool.getState();
  const picks = usePicks.getState();
  const { armed, arm } = useArmed.getState();
  const { asOf, set } = useSeen.getState();
  // A desk is a place, not a sheet: it is left by its button.
  if (tool.panel === "desk" || tool.panel === "photo") usePhoto.getState().use("look");
  else if (armed) arm(null);
  else if (isPicking(picks)) picks.clear();
  else if (tool.section || tool.draft || tool.step || tool.panel || tool.repair || tool.copied) tool.close();
  else if (asOf) set({ asOf: null });
}

/** Keys that work wherever nothing is being typed: undo and redo, Escape, and Enter for what is being prepared. */
export function useBenchKeys(acts: Acts) {
  const now = useRef(acts);
  now.current = acts;
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (isTyping(e.target)) return;
      const key = e.key.toLowerCase();
      const held = e.ctrlKey || e.metaKey;
      if (held && (key === "z" || key === "y")) {
        e.preventDefault();
        now.current.move(key === "y" || e.shiftKey ? "redo" : "undo");
      } else if (e.key === "Escape") stepBack();
      else if (e.key === "Enter" && !(e.target instanceof HTMLButtonElement)) takeNow();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}
