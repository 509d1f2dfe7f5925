import { useEffect, useRef, useState } from "react";
import { useBench } from "../job/context";
import { Glyph } from "../ui/Glyph";
import { length } from "../units";
import { usePointed } from "../view/pointed";
import { stage } from "../view/stage";
import { useHover } from "./hover";
import { type Under, useUnderPointer } from "./useUnderPointer";

/** Right-click lists everything that lies under the pointer, near to far, also what is covered, and picks from it. */
export function UnderPointer({ host }: { host: React.RefObject<HTMLDivElement | null> }) {
  const { unit, tell } = useBench();
  const [at, setAt] = useState<{ x: number; y: number } | null>(null);
  const [rows, setRows] = useState<Under[] | null>(null);
  const from = useRef<{ x: number; y: number } | null>(null);
  const under = useUnderPointer();
  const ask = useRef<(x: number, y: number) => Promise<void>>(async () => undefined);
  ask.current = async (x, y) => {
    const box = host.current!.getBoundingClientRect();
    // The list stays inside the view.
    setAt({ x: Math.min(x - box.left, box.width - 390), y: Math.min(y - box.top, box.height - 200) });
    setRows(null);
    try {
      setRows(await under(x, y));
    } catch (e) {
      setAt(null);
      tell(e);
    }
  };
  useEffect(() => {
    const el = host.current;
    if (!el) return;
    const down = (e: PointerEvent) => {
      if (e.button === 2) from.current = { x: e.clientX, y: e.clientY };
      else if (!(e.target as HTMLElement).closest(".under")) setAt(null);
    };
    const menu = (e: MouseEvent) => {
      e.preventDefault();
      const f = from.current;
      if (f && Math.hypot(e.clientX - f.x, e.clientY - f.y) < 4) void ask.current(e.clientX, e.clientY);
    };
    const key = (e: KeyboardEvent) => e.key === "Escape" && setAt(null);
    el.addEventListener("pointerdown", down);
    el.addEventListener("contextmenu", menu);
    window.addEventListener("keydown", key);
    return () => {
      el.removeEventListener("pointerdown", down);
      el.removeEventListener("contextmenu", menu);
      window.removeEventListener("keydown", key);
    };
  }, [host]);
  const setLook = usePointed((s) => s.set);
  if (!at) return null;
  const nearest = rows?.[0]?.far ?? 0;
  return (
    <div
      className="under"
      role="menu"
      aria-label="Under the pointer"
      style={{ left: at.x, top: at.y }}
      onMouseLeave={() => {
        setLook({ offered: null });
        useHover.getState().over(null);
      }}
    >
      <div className="field-label">Under the pointer, near to far</div>
      {rows === null && <div className="quiet">looking …</div>}
      {rows?.length === 0 && <div className="quiet">Nothing lies here.</div>}
      {rows?.map((r) => (
        <button
          type="button"
          role="menuitem"
          key={r.key}
          onMouseEnter={() => {
            setLook({ offered: r.face ?? null });
            useHover.getState().over(r.edge ?? null);
            stage.now?.invalidate();
          }}
          onClick={() => {
            setAt(null);
            setLook({ offered: null });
            r.run();
          }}
        >
          <Glyph kind={r.glyph} />
          <span>{r.text}</span>
          <span className="figures">{r.far - nearest < 0.05 ? "front" : `+${length(r.far - nearest, unit)}`}</span>
        </button>
      ))}
    </div>
  );
}
