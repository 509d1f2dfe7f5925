import { Button, Segmented } from "antd";
import { useEffect, useState } from "react";
import { api, type DeliveryTask, got, ProblemError } from "../api/client";
import { useBench } from "../job/context";
import { finished, useLive } from "../job/useTask";
import { ProblemNote } from "../ui/ProblemNote";
import { count, length, roughLength, share, volume } from "../units";
import { Fineness } from "./Fineness";
import { useTool } from "./tool";

type Kind = "step" | "stl" | "obj" | "ply" | "3mf" | "count";
const MESHES = ["stl", "obj", "ply", "3mf"] as const;

/** Files that leave the bench, each written, read back and checked before it is offered. */
export function DeliverSheet() {
  const { job, unit } = useBench();
  const close = useTool((s) => s.close);
  const [chord, setChord] = useState("0.05 mm");
  const [angle, setAngle] = useState("20");
  const [facets, setFacets] = useState<{ facets: number; bytes: number } | null>(null);
  const [busy, setBusy] = useState<Kind | null>(null);
  const [done, setDone] = useState<string[]>([]);
  const [problem, setProblem] = useState<ProblemError | null>(null);
  const bodies = job.build.result?.bodies ?? [];
  const live = useLive();
  const ready = job.build.current && job.build.status === "done" && bodies.length > 0;
  const [fileUnit, setFileUnit] = useState<"mm" | "inch">(unit === "inch" ? "inch" : "mm");
  const path = { job_id: job.id };

  const order = async (kind: Kind): Promise<DeliveryTask> => {
    const body = { kind, unit: fileUnit, chord_mm: roughLength(chord, unit), angle_deg: Number.parseFloat(angle) };
    const row = await got(api.POST("/api/jobs/{job_id}/deliveries", { params: { path }, body }));
    const task = { params: { path: { ...path, task_id: row.id } } };
    return finished(row, () => got(api.GET("/api/jobs/{job_id}/deliveries/{task_id}", task)), live);
  };
  const run = async (kind: Kind) => {
    setBusy(kind);
    setProblem(null);
    try {
      const row = await order(kind);
      if (kind === "count") setFacets({ facets: row.result?.facets ?? 0, bytes: row.result?.bytes ?? 0 });
      else {
        const link = document.createElement("a");
        link.href = `/api/jobs/${job.id}/deliveries/${row.id}/file`;
        link.click();
        const size = `${((row.result?.bytes ?? 0) / 1024).toFixed(0)} KB`;
        const what = kind === "step" ? `${row.result?.faces} faces` : `${count(row.result?.facets ?? 0)} facets`;
        setDone((d) => [
          `${kind.toUpperCase()} in ${fileUnit} · ${what} · ${size} · read back: closed, same size`,
          ...d,
        ]);
      }
    } catch (e) {
      if (e instanceof ProblemError) setProblem(e);
      else throw e;
    } finally {
      setBusy(null);
    }
  };
  const head = job.revision;
  // biome-ignore lint/correctness/useExhaustiveDependencies: counted again when the body or the fineness changes
  useEffect(() => {
    setFacets(null);
    if (ready && roughLength(chord, unit) > 0 && Number.parseFloat(angle) > 0) void run("count");
  }, [chord, angle, head, ready]);
  const fit = job.build.result?.fit;
  return (
    <section className="sheet" aria-label="Deliver">
      <h2>Deliver</h2>
      {bodies.length === 0 && <p className="quiet">There is no body yet. Extrude an outline first.</p>}
      <dl className="fact-list">
        {bodies.map((b) => (
          <div key={b.id}>
            <dt>{b.name}</dt>
            <dd>{volume(b.volume, unit)}</dd>
          </div>
        ))}
        {fit && (
          <div>
            <dt>inside ±{length(fit.figures.acceptance, unit)}</dt>
            <dd>{share(fit.figures.inside_share)}</dd>
          </div>
        )}
      </dl>
      <div className="field-label">Unit of the files</div>
      <Segmented<"mm" | "inch">
        block
        aria-label="Unit of the files"
        value={fileUnit}
        options={["mm", "inch"]}
        onChange={setFileUnit}
      />
      <h3>For machining: STEP</h3>
      <p className="quiet">Named bodies, exact faces, in {fileUnit}.</p>
      <Button type="primary" block disabled={!ready} loading={busy === "step"} onClick={() => void run("step")}>
        Download STEP
      </Button>
      <h3>For printing: STL, OBJ, PLY, 3MF</h3>
      <p className="quiet">
        Triangles, in {fileUnit}. Finer facets follow curved faces more closely, and there are more of them.
      </p>
      <Fineness chord={chord} angle={angle} onChord={setChord} onAngle={setAngle} />
      <p className="figures" data-testid="stl-count">
        {facets
          ? `${count(facets.facets)} facets, ${(facets.bytes / 1024).toFixed(0)} KB`
          : ready
            ? "counting facets …"
            : "–"}
      </p>
      <div className="mesh-downloads">
        {MESHES.map((kind) => (
          <Button key={kind} disabled={!ready || !facets} loading={busy === kind} onClick={() => void run(kind)}>
            Download {kind.toUpperCase()}
          </Button>
        ))}
      </div>
      {problem && <ProblemNote problem={problem.problem} />}
      {done.map((line, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a log, newest first
        <p className="quiet small" key={i}>
          {line}
        </p>
      ))}
      <div className="sheet-actions">
        <Button onClick={close}>Close</Button>
      </div>
    </section>
  );
}
