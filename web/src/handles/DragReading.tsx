import { useEffect } from "react";
import { atRest, useDragging } from "./dragging";

const FIGURE = /^[\d.,+-]$/;

/** The value of the grip that is held, beside the pointer; a figure that is typed meanwhile takes its place. */
export function DragReading() {
  const { at, said, typing, take, leave, set } = useDragging();
  const held = at !== null;
  useEffect(() => {
    if (!held) return;
    const press = (e: KeyboardEvent) => {
      if (useDragging.getState().typing !== null || !FIGURE.test(e.key)) return;
      e.preventDefault();
      e.stopImmediatePropagation();
      useDragging.getState().set({ typing: e.key });
    };
    window.addEventListener("keydown", press, { capture: true });
    return () => window.removeEventListener("keydown", press, { capture: true });
  }, [held]);
  if (!at) return null;
  const done = (text: string | null) => {
    set(atRest);
    if (text?.trim()) take?.(text.trim());
    else leave?.();
  };
  return (
    <div className="drag-reading figures" style={{ left: at.x + 16, top: at.y + 14 }}>
      {typing === null ? (
        said
      ) : (
        <input
          aria-label="Value of the grip"
          // biome-ignore lint/a11y/noAutofocus: its first figure has just been typed
          autoFocus
          value={typing}
          onChange={(e) => set({ typing: e.target.value })}
          onBlur={() => done(null)}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === "Enter") done(typing);
            if (e.key === "Escape") done(null);
          }}
        />
      )}
    </div>
  );
}
