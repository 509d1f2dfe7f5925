import { Input, Segmented } from "antd";
import { useState } from "react";
import { useShownBodies } from "../view/useShownBodies";
import { ArrowList } from "./ArrowList";
import { type PartsOf, showNothing, useAwaited, usePartRows } from "./usePartRows";

/** All that a pick in the view would take, in a list by kind, for the keyboard; `chosen`: names that are in hand already. */
export function PartsList({ chosen }: { chosen: readonly string[] }) {
  const awaited = useAwaited();
  const bodies = useShownBodies().filter((b) => !b.view);
  const [kind, setKind] = useState<PartsOf | null>(null);
  const [body, setBody] = useState("");
  const [text, setText] = useState("");
  const of = kind && awaited.includes(kind) ? kind : awaited[0];
  const own = bodies.find((b) => b.id === body) ?? bodies[0];
  const all = usePartRows(of ?? "edges", own, chosen);
  const rows = all.filter((r) => `${r.text} ${r.note ?? ""}`.toLowerCase().includes(text.trim().toLowerCase()));
  if (!of) return <p className="quiet">There is nothing to pick yet.</p>;
  return (
    <div className="parts-list">
      {awaited.length > 1 && (
        <Segmented<PartsOf> block size="small" aria-label="Kind" value={of} options={awaited} onChange={setKind} />
      )}
      {bodies.length > 1 && (of === "edges" || of === "faces") && (
        <Segmented
          block
          size="small"
          aria-label="Body"
          value={own?.id ?? ""}
          options={bodies.map((b) => ({ value: b.id, label: b.name }))}
          onChange={setBody}
        />
      )}
      <Input
        size="small"
        allowClear
        aria-label={`Find among the ${of}`}
        placeholder={`find among ${all.length}: round, straight, 12 mm …`}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.stopPropagation()}
      />
      <ArrowList
        key={`${of} ${own?.key}`}
        label={of[0]!.toUpperCase() + of.slice(1)}
        rows={rows}
        onLeave={showNothing}
      />
      {rows.length === 0 && <p className="quiet">None is like that.</p>}
    </div>
  );
}
