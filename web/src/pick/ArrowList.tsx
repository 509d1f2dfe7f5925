import { useEffect, useRef, useState } from "react";

export interface ArrowRow {
  key: string;
  text: string;
  note?: string;
  chosen?: boolean;
  /** Shows it in the view. */
  over: () => void;
  take: () => void;
}

interface Props {
  label: string;
  rows: readonly ArrowRow[];
  /** Takes back what `over` has shown. */
  onLeave: () => void;
}

const STEPS: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 8, PageUp: -8, Home: -1e6, End: 1e6 };

/** A list that is walked by the arrow keys: the row in focus is shown in the view, Enter or a click takes it. */
export function ArrowList({ label, rows, onLeave }: Props) {
  const [at, setAt] = useState(0);
  const list = useRef<HTMLDivElement>(null);
  const here = rows[Math.min(at, rows.length - 1)];
  const leave = useRef(onLeave);
  leave.current = onLeave;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what a row shows hangs on which row it is
  useEffect(() => {
    here?.over();
    return () => leave.current();
  }, [here?.key]);
  const move = (by: number) => {
    const next = Math.min(Math.max(at + by, 0), rows.length - 1);
    setAt(next);
    list.current?.children[next]?.scrollIntoView?.({ block: "nearest" });
  };
  const keys = (e: React.KeyboardEvent) => {
    if (e.key in STEPS) move(STEPS[e.key]!);
    else if (e.key === "Enter" || e.key === " ") here?.take();
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  return (
    <div
      ref={list}
      className="parts-rows"
      role="listbox"
      aria-label={label}
      aria-multiselectable
      aria-activedescendant={here ? `row-${here.key}` : undefined}
      tabIndex={0}
      onKeyDown={keys}
    >
      {rows.map((row, k) => (
        // biome-ignore lint/a11y/useKeyWithClickEvents: the list itself has the keyboard
        <div
          key={row.key}
          id={`row-${row.key}`}
          role="option"
          tabIndex={-1}
          aria-selected={row.chosen ?? false}
          className={row === here ? "here" : ""}
          onMouseEnter={() => setAt(k)}
          onClick={row.take}
        >
          {row.text}
          {row.note && <small className="quiet"> {row.note}</small>}
        </div>
      ))}
    </div>
  );
}
