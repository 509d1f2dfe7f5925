import { useEffect } from "react";
import { SIDES } from "../view/sides";
import { lookFrom } from "../view/stage";
import { useOpenList } from "./open";

/** The ways to look at the part, in one row, each on a digit. */
export function SideRow() {
  useEffect(() => {
    const close = () => useOpenList.getState().set(null);
    const press = (e: KeyboardEvent) => {
      const side = SIDES.find((s) => s.key === e.key);
      if (!side && e.key !== "Escape") return close();
      e.preventDefault();
      e.stopImmediatePropagation();
      if (side) lookFrom(side.from);
      close();
    };
    window.addEventListener("keydown", press, { capture: true });
    return () => window.removeEventListener("keydown", press, { capture: true });
  }, []);
  return (
    <div className="side-row" role="toolbar" aria-label="Look from">
      {SIDES.map((s) => (
        <button
          type="button"
          key={s.key}
          onClick={() => {
            lookFrom(s.from);
            useOpenList.getState().set(null);
          }}
        >
          <kbd>{s.key}</kbd>
          {s.name}
        </button>
      ))}
    </div>
  );
}
