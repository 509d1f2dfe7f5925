import { useEffect, useRef } from "react";
import { isTyping } from "../ui/typing";
import type { Action } from "./action";
import { useOpenList } from "./open";

/** Runs an action by its key, wherever nothing is being typed. Undo and redo have their keys from the bench itself. */
export function useActionKeys(actions: readonly Action[]) {
  const now = useRef(actions);
  now.current = actions;
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey || useOpenList.getState().open) return;
      if (isTyping(e.target) || (e.target as Element | null)?.closest?.("[role=listbox], [role=dialog]")) return;
      const action = now.current.find((a) => a.keys === e.key);
      if (!action || action.idle) return;
      e.preventDefault();
      action.run();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}
