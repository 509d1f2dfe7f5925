import { Button, Input, Select } from "antd";
import { useState } from "react";
import type { Desk, Instrument, Session } from "../api/client";
import { useBench } from "../job/context";
import { LengthInput } from "../ui/LengthInput";
import { length, roughLength, signed, typed } from "../units";
import { useFocus } from "./useDesk";

/** The instrument in hand and the session takes are made in, with its zero; a zero in doubt is put right here. */
export function Sessions({ desk, session }: { desk: Desk | undefined; session: Session | undefined }) {
  const { job, unit, edit } = useBench();
  const setFocus = useFocus((s) => s.set);
  const sessions = job.recipe.sessions ?? [];
  const instruments = job.recipe.instruments ?? [];
  const tool = instruments.find((i) => i.id === session?.instrument);
  const doubt = desk?.sessions.find((d) => d.session === session?.id);
  const [naming, setNaming] = useState(false);
  const begin = async () => {
    let own = tool ?? instruments.at(-1);
    if (!own) {
      own = { id: crypto.randomUUID(), name: "Caliper", resolution_mm: 0.01, limit_mm: 0.02, note: "" };
      if (!(await edit({ op: "set-instrument", instrument: own }))) return;
    }
    const fresh = { id: crypto.randomUUID(), name: `Session ${sessions.length + 1}`, instrument: own.id, zero_mm: 0 };
    if (await edit({ op: "set-session", session: fresh })) setFocus({ session: fresh.id });
  };
  const setTool = (part: Partial<Instrument>) => {
    if (tool) void edit({ op: "set-instrument", instrument: { ...tool, ...part } });
  };
  const setZero = (mm: number) => {
    if (session && Number.isFinite(mm))
      void edit({ op: "set-session", session: { ...session, zero_mm: Number(mm.toFixed(4)) } });
  };
  return (
    <section className="desk-card" aria-label="Measured with">
      <div className="value-line">
        <h2>Measured with</h2>
        <div className="top-gap" />
        {sessions.length > 1 && (
          <Select
            size="small"
            aria-label="Session"
            value={session?.id ?? null}
            options={sessions.map((s) => ({ value: s.id, label: s.name }))}
            onChange={(id) => setFocus({ session: id })}
          />
        )}
        <Button size="small" onClick={() => void begin()}>
          Begin a session
        </Button>
      </div>
      {!session && (
        <p className="quiet small">
          Without a session only the spread of the takes counts. A session knows its caliper: the step of its display,
          its error limit, and what it shows when closed.
        </p>
      )}
      {session && tool && (
        <>
          {naming ? (
            <Input
              size="small"
              autoFocus
              aria-label="Name of the session"
              defaultValue={session.name}
              onKeyDown={(e) => {
                e.stopPropagation();
                if (e.key === "Enter") e.currentTarget.blur();
              }}
              onBlur={(e) => {
                setNaming(false);
                const name = e.target.value.trim();
                if (name && name !== session.name) void edit({ op: "set-session", session: { ...session, name } });
              }}
            />
          ) : (
            <button type="button" className="link" onClick={() => setNaming(true)}>
              {session.name}
            </button>
          )}
          <div className="quiet small">{tool.name}</div>
          <div className="tool-figures">
            <div>
              step
              <LengthInput
                label="Step of the display"
                value={typed(tool.resolution_mm, unit)}
                onCommit={(t) => {
                  const mm = roughLength(t, unit);
                  if (mm > 0) setTool({ resolution_mm: mm });
                }}
              />
            </div>
            <div>
              limit ±
              <LengthInput
                label="Error limit"
                value={typed(tool.limit_mm ?? 0, unit)}
                onCommit={(t) => {
                  const mm = roughLength(t, unit);
                  if (mm >= 0) setTool({ limit_mm: mm });
                }}
              />
            </div>
            <div>
              shows closed
              <LengthInput
                label="What it shows when closed"
                value={typed(session.zero_mm ?? 0, unit)}
                onCommit={(t) => setZero(roughLength(t, unit))}
              />
            </div>
          </div>
          {doubt?.suspected && (
            <div className="doubt" role="alert">
              <b className="above">▲ Was the zero set?</b>
              <p className="small">
                All {doubt.pairs} readings of this session lie {signed(doubt.shift, unit, 1)} off the scan (±{" "}
                {length(2 * doubt.u, unit, 1)}).
              </p>
              <Button size="small" onClick={() => setZero((session.zero_mm ?? 0) + doubt.shift)}>
                Take {length(doubt.shift, unit, 1)} off its takes
              </Button>
            </div>
          )}
          {doubt && !doubt.suspected && (
            <p className="quiet small">
              Against the scan its zero is good: {signed(doubt.shift, unit, 1)} ± {length(2 * doubt.u, unit, 1)} over{" "}
              {doubt.pairs} readings.
            </p>
          )}
        </>
      )}
    </section>
  );
}
