import { useQuery } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { api, got, type PracticeResult } from "../api/client";
import { useBench } from "../job/context";
import { finished, useLive } from "../job/useTask";
import { useTool } from "../sheets/tool";
import { SolidFile } from "../steps/SolidFile";
import { count } from "../units";
import { ScannerSettings, type Settings } from "./ScannerSettings";
import { useAddScan } from "./useAddScan";

/** The virtual scanner: scans of a known solid for practice, each facet's true face kept beside them. */
export function ScannerSheet() {
  const { job, tell } = useBench();
  const close = useTool((s) => s.close);
  const live = useLive();
  const adding = useAddScan();
  const bodies = job.build.result?.bodies ?? [];
  const [solid, setSolid] = useState<{ kind: "body" | "step"; key: string; name: string } | null>(
    bodies[0] ? { kind: "body", key: bodies[0].key, name: bodies[0].name } : null,
  );
  const [settings, setSettings] = useState<Settings>({
    spacing: 0.9,
    noise: 0.03,
    soften: 2,
    table_steps: 6,
    deep: 0.12,
    seed: 1,
    elevations: [35, -25],
    views: [],
    turn: [0, 0, 0],
    shift: [0, 0, 0],
    worn: [],
  });
  const [busy, setBusy] = useState(false);
  const [made, setMade] = useState<PracticeResult | null>(null);
  const path = { job_id: job.id };
  const { data: truth = [] } = useQuery({
    queryKey: ["truth-models", job.id],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => got(api.GET("/api/jobs/{job_id}/truth-models", { params: { path } })),
  });
  const options = [
    ...truth.map((t) => ({ value: t.blob, label: `${t.name} (truth model)` })),
    ...bodies.map((b) => ({ value: b.key, label: `${b.name} (body of this job)` })),
    ...(solid?.kind === "step" && !truth.some((t) => t.blob === solid.key)
      ? [{ value: solid.key, label: solid.name }]
      : []),
  ];
  const run = async () => {
    if (!solid) return;
    setBusy(true);
    setMade(null);
    try {
      const first = await got(api.POST("/api/jobs/{job_id}/practice", { params: { path }, body: { solid, settings } }));
      const row = await finished(
        first,
        () =>
          got(api.GET("/api/jobs/{job_id}/practice/{task_id}", { params: { path: { ...path, task_id: first.id } } })),
        live,
      );
      if (live() && row.result) setMade(row.result);
    } catch (e) {
      tell(e);
    } finally {
      setBusy(false);
    }
  };
  return (
    <section className="sheet" aria-label="Virtual scanner">
      <h2>Virtual scanner</h2>
      <p className="quiet">
        A stand-in for the real device: it scans a solid that is known, with noise, softened edges and unseen places, so
        that you can see how far to trust a rebuild.
      </p>
      <div className="field-label">Solid</div>
      <Select
        aria-label="Solid to scan"
        className="wide"
        value={solid?.key ?? null}
        placeholder="choose a body or a STEP file"
        options={options}
        onChange={(key: string) => {
          const body = bodies.find((b) => b.key === key);
          const model = truth.find((t) => t.blob === key);
          if (body) setSolid({ kind: "body", key, name: body.name });
          else if (model) setSolid({ kind: "step", key, name: model.name });
        }}
      />
      <SolidFile
        value={
          solid?.kind === "step" && !truth.some((t) => t.blob === solid.key)
            ? { blob: solid.key, name: solid.name }
            : null
        }
        onChange={(f) => setSolid({ kind: "step", key: f.blob, name: f.name.replace(/\.[^.]+$/, "") })}
      />
      <ScannerSettings settings={settings} onChange={setSettings} />
      {made && (
        <div className="compared">
          <p className="figures">
            {count(made.facets)} facets; {made.faces_seen} of {made.faces} faces were seen.
          </p>
          <Button
            type="primary"
            onClick={() =>
              adding
                .take(made.upload, "mm")
                .then(() => useTool.getState().open("scan"))
                .catch(tell)
            }
          >
            Bring it into this job
          </Button>
        </div>
      )}
      <div className="sheet-actions">
        <Button type={made ? "default" : "primary"} loading={busy} disabled={!solid} onClick={() => void run()}>
          Scan
        </Button>
        <Button onClick={close}>Close</Button>
      </div>
    </section>
  );
}
