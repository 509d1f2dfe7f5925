import { Button, Input, Select } from "antd";
import { useEffect, useState } from "react";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { finished, useLive } from "../job/useTask";
import { useTool } from "../sheets/tool";
import { usePointed } from "../view/pointed";
import { type Compared, Comparison } from "./Comparison";
import { useCheckpoints } from "./useCheckpoints";

/** Named states of the job: set one, compare two, go back to one, begin another job from one. */
export function CheckpointSheet() {
  const { job, tell } = useBench();
  const close = useTool((s) => s.close);
  const set = usePointed((s) => s.set);
  const live = useLive();
  const [name, setName] = useState("");
  const [pair, setPair] = useState<[string, string] | null>(null);
  const [compared, setCompared] = useState<Compared | null>(null);
  const path = { job_id: job.id };
  const { rows, add: keep, forget, back, copy } = useCheckpoints();
  useEffect(() => () => set({ moved: null }), [set]);
  const add = () => keep(name.trim() || `State ${rows.length + 1}`).then(() => setName(""));
  const compare = async (before: string, after: string) => {
    setPair([before, after]);
    set({ moved: null });
    setCompared(null);
    const which = (id: string) => (id === "now" ? null : id);
    try {
      const out = await got(
        api.POST("/api/jobs/{job_id}/compare", {
          params: { path },
          body: { before: which(before), after: which(after) },
        }),
      );
      setCompared({ changes: out.changes, moved: undefined, volumes: [] });
      const task = { params: { path: { ...path, task_id: out.task.id } } };
      const row = await finished(out.task, () => got(api.GET("/api/jobs/{job_id}/compare/{task_id}", task)), live);
      if (!live()) return;
      const moved = row.result?.moved ?? null;
      setCompared({ changes: out.changes, moved, volumes: row.result?.volumes ?? [] });
      if (moved) set({ moved: { url: `/api/jobs/${job.id}/compare/${out.task.id}/view`, largest: moved.largest } });
    } catch (e) {
      tell(e);
    }
  };
  const states = [{ value: "now", label: "as it is now" }, ...rows.map((c) => ({ value: c.id, label: c.name }))];
  return (
    <section className="sheet" aria-label="Checkpoints">
      <h2>Checkpoints</h2>
      <p className="quiet">
        A checkpoint names the present state. Going back to one is a change like any other: it can be undone.
      </p>
      <div className="value-line">
        <Input
          aria-label="Name of the checkpoint"
          placeholder={`State ${rows.length + 1}`}
          value={name}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === "Enter") void add();
          }}
        />
        <Button type="primary" onClick={() => void add()}>
          Set
        </Button>
      </div>
      <ul className="checkpoints">
        {rows.map((c) => (
          <li key={c.id}>
            <div className="value-line">
              <b className="step-name">{c.name}</b>
              <span className="quiet small">
                {c.current ? "the present state" : new Date(c.created).toLocaleString()}
              </span>
            </div>
            <div className="checkpoint-actions">
              <Button size="small" disabled={c.current} onClick={() => void compare(c.id, "now")}>
                Compare with now
              </Button>
              <Button size="small" disabled={c.current} onClick={() => void back(c)}>
                Go back to it
              </Button>
              <Button size="small" onClick={() => void copy(c)}>
                New job
              </Button>
              <Button size="small" type="text" aria-label={`Forget ${c.name}`} onClick={() => void forget(c)}>
                ×
              </Button>
            </div>
          </li>
        ))}
      </ul>
      {pair && (
        <div className="compared">
          <div className="value-line">
            <Select
              aria-label="Earlier state"
              className="wide"
              value={pair[0]}
              options={states}
              onChange={(v) => void compare(v, pair[1])}
            />
            <span>→</span>
            <Select
              aria-label="Later state"
              className="wide"
              value={pair[1]}
              options={states}
              onChange={(v) => void compare(pair[0], v)}
            />
          </div>
          <Comparison compared={compared} />
        </div>
      )}
      <div className="sheet-actions">
        <Button onClick={() => void copy(null)}>Duplicate the job as it is</Button>
        <Button onClick={close}>Close</Button>
      </div>
    </section>
  );
}
