import { Segmented } from "antd";
import { useEffect, useMemo, useRef, useState } from "react";
import { useBench } from "../job/context";
import { stage } from "../view/stage";
import { useShownBodies } from "../view/useShownBodies";
import { useHover } from "./hover";
import { edgeTitle } from "./parts";
import { type EdgeFacts, useBorders } from "./useBorders";

interface Props {
  /** Names of edges that are in hand already. */
  chosen: readonly string[];
  onPick: (pick: { body: string; key: string; index: number; edge: EdgeFacts }) => void;
}

const CURVES = ["all", "straight", "round", "other"] as const;
type Curves = (typeof CURVES)[number];
const isOf = (e: EdgeFacts, curves: Curves) =>
  curves === "all" ||
  (curves === "straight"
    ? e.kind === "line"
    : curves === "round"
      ? e.kind === "circle"
      : !["line", "circle"].includes(e.kind));

/** All sharp edges of a body, by the arrow keys: the one in focus is shown in the view, Enter or a click takes it. */
export function PartsList({ chosen, onPick }: Props) {
  const { unit } = useBench();
  const bodies = useShownBodies().filter((b) => !b.view);
  const [body, setBody] = useState(bodies[0]?.id ?? "");
  const [curves, setCurves] = useState<Curves>("all");
  const [at, setAt] = useState(0);
  const list = useRef<HTMLDivElement>(null);
  const own = bodies.find((b) => b.id === body) ?? bodies[0];
  const borders = useBorders(own?.key ?? null);
  const rows = useMemo(
    () =>
      (borders?.edges ?? [])
        .map((edge, index) => ({ edge, index }))
        .filter(({ edge }) => edge.name && !edge.smooth && !edge.border && isOf(edge, curves)),
    [borders, curves],
  );
  const here = rows[Math.min(at, rows.length - 1)];
  useEffect(() => {
    const { over } = useHover.getState();
    over(here && own ? { key: own.key, edge: here.index } : null);
    stage.now?.invalidate();
    return () => over(null);
  }, [here, own]);
  const move = (by: number) => {
    const next = Math.min(Math.max(at + by, 0), rows.length - 1);
    setAt(next);
    list.current?.children[next]?.scrollIntoView?.({ block: "nearest" });
  };
  const take = (k: number) => {
    const row = rows[k];
    if (row && own) onPick({ body: own.id, key: own.key, index: row.index, edge: row.edge });
  };
  const keys = (e: React.KeyboardEvent) => {
    const steps: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 8, PageUp: -8, Home: -1e6, End: 1e6 };
    if (e.key in steps) move(steps[e.key]!);
    else if (e.key === "Enter" || e.key === " ") take(at);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  if (!own) return <p className="quiet">There is no body yet.</p>;
  return (
    <div className="parts-list">
      {bodies.length > 1 && (
        <Segmented
          block
          size="small"
          aria-label="Body"
          value={own.id}
          options={bodies.map((b) => ({ value: b.id, label: b.name }))}
          onChange={(id) => {
            setBody(id);
            setAt(0);
          }}
        />
      )}
      <Segmented<Curves>
        block
        size="small"
        aria-label="Curves"
        value={curves}
        options={[...CURVES]}
        onChange={(c) => {
          setCurves(c);
          setAt(0);
        }}
      />
      <div
        ref={list}
        className="parts-rows"
        role="listbox"
        aria-label="Edges"
        aria-multiselectable
        aria-activedescendant={here ? `edge-${here.index}` : undefined}
        tabIndex={0}
        onKeyDown={keys}
      >
        {rows.map(({ edge, index }, k) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the list itself has the keyboard
          <div
            key={edge.name}
            id={`edge-${index}`}
            role="option"
            tabIndex={-1}
            aria-selected={chosen.includes(edge.name)}
            className={k === at ? "here" : ""}
            onMouseEnter={() => setAt(k)}
            onClick={() => take(k)}
          >
            {edgeTitle(edge, unit)}
            <small className="quiet"> {edge.label}</small>
          </div>
        ))}
      </div>
      {rows.length === 0 && <p className="quiet">No such edges.</p>}
    </div>
  );
}
