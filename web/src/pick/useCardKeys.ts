import { useEffect } from "react";
import { isTyping } from "../ui/typing";

/** Digit keys of a card's actions, while no field has the keyboard. */
export function useCardKeys(actions: { key: string; run: () => void }[]) {
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (isTyping(e.target)) return;
      if (e.ctrlKey || e.metaKey || e.altKey) return;
      const action = actions.find((a) => a.key === e.key);
      if (!action) return;
      e.preventDefault(); // a field that the action opens must not get the digit
      action.run();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  });
}
