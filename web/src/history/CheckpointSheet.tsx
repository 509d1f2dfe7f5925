import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { api, type Change, type Checkpoint, got } from "../api/client";
import { asJob, type Job } from "../api/queries";
import { useBench } from "../job/context";
import { finished, useLive } from "../job/useTask";
import { useTool } from "../sheets/tool";
import { share, signed, volume } from "../units";
import { usePointed } from "../view/pointed";
import { goTo } from "../view/stage";

interface Moved {
  largest: number;
  largest_at: [number, number, number];
  moved_share: number;
}
interface Compared {
  changes: Change[];
  moved: Moved | null | undefined;
  volumes: number[];
}

/** Named states of the job: set one, compare two, go back to one, begin another job from one. */
export function CheckpointSheet() {
  const { job, unit, tell } = useBench();
  const close = useTool((s) => s.close);
  const set = usePointed((s) => s.set);
  const client = useQueryClient();
  const navigate = useNavigate();
  const live = useLive();
  const [name, setName] = useState("");
  const [pair, setPair] = useState<[string, string] | null>(null);
  const [compared, setCompared] = useState<Compared | null>(null);
  const path = { job_id: job.id };
  const { data: rows = [] } = useQuery({
    queryKey: ["checkpoints", job.id, job.revision],
    queryFn: () => got(api.GET("/api/jobs/{job_id}/checkpoints", { params: { path } })),
  });
  useEffect(() => () => set({ moved: null }), [set]);
  const keep = (fresh: Checkpoint[]) => client.setQueryData(["checkpoints", job.id, job.revision], fresh);
  const add = () =>
    got(
      api.POST("/api/jobs/{job_id}/checkpoints", {
        params: { path },
        body: { name: name.trim() || `State ${rows.length + 1}` },
      }),
    )
      .then((fresh) => {
        keep(fresh);
        setName("");
      })
      .catch(tell);
  const back = (c: Checkpoint) =>
    got(api.POST("/api/jobs/{job_id}/return", { params: { path }, body: { version: job.version, checkpoint: c.id } }))
      .then((out) => client.setQueryData<Job>(["job", job.id], asJob(out)))
      .catch(tell);
  const copy = (c: Checkpoint | null) =>
    got(api.POST("/api/jobs/{job_id}/duplicate", { params: { path }, body: { checkpoint: c?.id ?? null } }))
      .then((out) => navigate(`/jobs/${out.id}`))
      .catch(tell);
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
              <Button
                size="small"
                type="text"
                aria-label={`Forget ${c.name}`}
                onClick={() =>
                  got(
                    api.DELETE("/api/jobs/{job_id}/checkpoints/{checkpoint}", {
                      params: { path: { ...path, checkpoint: c.id } },
                    }),
                  )
                    .then(keep)
                    .catch(tell)
                }
              >
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
          {!compared && <p className="quiet">comparing …</p>}
          {compared && compared.changes.length === 0 && <p className="quiet">Nothing was changed between the two.</p>}
          {compared && compared.changes.length > 0 && (
            <table className="changes">
              <thead>
                <tr>
                  <th>what</th>
                  <th>before</th>
                  <th>after</th>
                </tr>
              </thead>
              <tbody>
                {compared.changes.map((c) => (
                  <tr key={`${c.what}-${c.field}`}>
                    <td>
                      {c.what}
                      <div className="quiet small">{c.field.replaceAll("_", " ")}</div>
                    </td>
                    <td className="figures">{c.before ?? "–"}</td>
                    <td className="figures">{c.after ?? "–"}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {compared && compared.moved === undefined && <p className="quiet">measuring what moved …</p>}
          {compared?.moved === null && <p className="quiet">One of the states has no body: nothing to measure.</p>}
          {compared?.moved && (
            <dl className="fact-list">
              <div>
                <dt>moved surface</dt>
                <dd>{share(compared.moved.moved_share)}</dd>
              </div>
              <div>
                <dt>
                  <button type="button" className="link" onClick={() => goTo(compared.moved!.largest_at)}>
                    moved most
                  </button>
                </dt>
                <dd>{signed(compared.moved.largest, unit, 1)}</dd>
              </div>
              <div>
                <dt>volume</dt>
                <dd>{`${compared.volumes[1]! >= compared.volumes[0]! ? "+" : "−"}${volume(Math.abs(compared.volumes[1]! - compared.volumes[0]!), unit)}`}</dd>
              </div>
            </dl>
          )}
        </div>
      )}
      <div className="sheet-actions">
        <Button onClick={() => void copy(null)}>Duplicate the job as it is</Button>
        <Button onClick={close}>Close</Button>
      </div>
    </section>
  );
}
