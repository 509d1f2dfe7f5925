import { Button, Input, Popover, Select } from "antd";
import { useState } from "react";
import type { Reading, Take } from "../api/client";
import { useBench } from "../job/context";
import { type ReadingFacts, takeText } from "./facts";
import { useFocus } from "./useDesk";

const METHODS = ["jaws", "depth rod", "photo", "drawing", "elsewhere"];

/** The takes as chips: struck ones greyed with their reason, ones that stand apart marked; and a field for the next. */
export function TakeList({ reading: r, facts }: { reading: Reading; facts: ReadingFacts | undefined }) {
  const { unit, edit } = useBench();
  const session = useFocus((s) => s.session);
  const takes = r.takes ?? [];
  const last = takes.at(-1);
  const [next, setNext] = useState("");
  const [takeUnit, setTakeUnit] = useState<Take["unit"]>(last?.unit ?? (unit === "inch" ? "inch" : "mm"));
  const [method, setMethod] = useState<Take["method"]>(last?.method ?? (r.measures === "depth" ? "depth rod" : "jaws"));
  const [refused, setRefused] = useState(false);
  const add = async () => {
    const match = /^\s*([+-]?\d+(?:[.,]\d+)?)\s*(mm|cm|inch|in|deg)?\s*$/.exec(next);
    if (!match) {
      setRefused(true);
      return;
    }
    const named = match[2] === "in" ? "inch" : ((match[2] as Take["unit"] | undefined) ?? takeUnit);
    const take = { value: Number(match[1]!.replace(",", ".")), unit: named, method, session, note: "", struck: "" };
    if (await edit({ op: "add-take", id: r.id, take })) setNext("");
  };
  return (
    <div className="takes">
      {takes.map((t, k) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: takes are told apart by their place
        <Popover key={k} trigger="click" destroyOnHidden content={<TakeCard reading={r} at={k} />}>
          <button
            type="button"
            className={`take figures${t.struck ? " struck" : ""}${facts?.outliers.includes(k) ? " apart" : ""}`}
            title={
              t.struck
                ? `struck out: ${t.struck}`
                : facts?.outliers.includes(k)
                  ? "stands apart from the others"
                  : t.method
            }
          >
            {facts?.outliers.includes(k) ? "▲ " : ""}
            {takeText(t)}
          </button>
        </Popover>
      ))}
      <div className="value-line next-take">
        <Input
          size="small"
          className="figure-input take-input"
          aria-label={`Next take of ${r.name}`}
          placeholder="next take"
          status={refused ? "error" : ""}
          value={next}
          onChange={(e) => {
            setRefused(false);
            setNext(e.target.value);
          }}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === "Enter") void add();
          }}
        />
        <Select
          size="small"
          aria-label={`Unit of the take of ${r.name}`}
          value={takeUnit}
          onChange={setTakeUnit}
          options={["mm", "inch", "deg"].map((u) => ({ value: u, label: u }))}
        />
        <Select
          size="small"
          aria-label={`How ${r.name} is measured`}
          value={method}
          onChange={setMethod}
          options={METHODS.map((m) => ({ value: m, label: m }))}
        />
        <Button size="small" onClick={() => void add()}>
          Add
        </Button>
      </div>
      {refused && <p className="above small">A take is a number, such as 12.03, with a unit if it is another one.</p>}
    </div>
  );
}

/** One take: how it was made, a note, and striking it out with a reason. */
function TakeCard({ reading: r, at }: { reading: Reading; at: number }) {
  const { job, edit } = useBench();
  const [reason, setReason] = useState("");
  const t = r.takes?.[at];
  if (!t) return null;
  const session = job.recipe.sessions?.find((s) => s.id === t.session);
  const change = (part: Partial<Take>) => {
    const takes = (r.takes ?? []).map((x, k) => (k === at ? { ...x, ...part } : x));
    void edit({ op: "set-reading", id: r.id, takes });
  };
  return (
    <div className="take-card">
      <b className="figures">{takeText(t)}</b>
      <div className="quiet small">{session ? session.name : "in no session"}</div>
      <Select
        size="small"
        aria-label="How this take was made"
        value={t.method ?? "jaws"}
        options={METHODS.map((m) => ({ value: m, label: m }))}
        onChange={(method) => change({ method })}
      />
      <Input
        size="small"
        aria-label="Note on this take"
        placeholder="note"
        defaultValue={t.note ?? ""}
        onKeyDown={(e) => e.stopPropagation()}
        onBlur={(e) => e.target.value !== (t.note ?? "") && change({ note: e.target.value })}
      />
      {t.struck ? (
        <>
          <p className="small">Struck out: {t.struck}</p>
          <Button size="small" onClick={() => void edit({ op: "strike-take", id: r.id, take: at, reason: "" })}>
            Count it again
          </Button>
        </>
      ) : (
        <div className="value-line">
          <Input
            size="small"
            aria-label="Why it is struck out"
            placeholder="why it does not count"
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            onKeyDown={(e) => e.stopPropagation()}
          />
          <Button
            size="small"
            disabled={!reason.trim()}
            onClick={() => void edit({ op: "strike-take", id: r.id, take: at, reason })}
          >
            Strike out
          </Button>
        </div>
      )}
    </div>
  );
}
