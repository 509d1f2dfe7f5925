import { useQuery } from "@tanstack/react-query";
import { Button, InputNumber, Select } from "antd";
import { useState } from "react";
import { api, got, type PracticeResult } from "../api/client";
import type { components } from "../api/schema";
import { useBench } from "../job/context";
import { finished, useLive } from "../job/useTask";
import { useTool } from "../sheets/tool";
import { SolidFile } from "../steps/SolidFile";
import { count } from "../units";
import { useAddScan } from "./useAddScan";

type Settings = components["schemas"]["PracticeScan"];

const FIELDS: {
  key: "spacing" | "noise" | "soften" | "table_steps" | "deep" | "seed";
  label: string;
  unit: string;
  step: number;
  help: string;
}[] = [
  { key: "spacing", label: "Facet side", unit: "mm", step: 0.1, help: "how fine the scanner sees" },
  { key: "noise", label: "Noise (σ)", unit: "mm", step: 0.01, help: "along the surface's normal" },
  {
    key: "soften",
    label: "Softened edges",
    unit: "rounds",
    step: 1,
    help: "each takes about half a facet side off sharp edges",
  },
  {
    key: "table_steps",
    label: "Turntable",
    unit: "stops",
    step: 1,
    help: "views per turn, from above and below; 0 sees everything",
  },
  {
    key: "deep",
    label: "Lost in deep places",
    unit: "of the sky",
    step: 0.02,
    help: "what sees less than this share is missing",
  },
  { key: "seed", label: "Seed", unit: "", step: 1, help: "the same seed gives the same scan" },
];

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
  const number = (label: string, value: number, step: number, onChange: (v: number) => void) => (
    <InputNumber
      aria-label={label}
      size="small"
      value={value}
      step={step}
      onChange={(v) => v !== null && onChange(v)}
      onKeyDown={(e) => e.stopPropagation()}
    />
  );
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
      <div className="scanner-rows">
        {FIELDS.map((f) => (
          <div key={f.key} className="value-line" title={f.help}>
            <span className="step-name">{f.label}</span>
            {number(f.label, settings[f.key], f.step, (v) => setSettings({ ...settings, [f.key]: v }))}
            <span className="quiet small scanner-unit">{f.unit}</span>
          </div>
        ))}
        <div className="field-label" title="how the part lies on the table">
          Turned about x, y, z
        </div>
        <div className="value-line">
          {[0, 1, 2].map((i) => (
            <span key={i}>
              {number(`Turned about ${"xyz"[i]}`, settings.turn[i]!, 5, (v) => {
                const turn = [...settings.turn] as Settings["turn"];
                turn[i] = v;
                setSettings({ ...settings, turn });
              })}
            </span>
          ))}
          <span className="quiet small scanner-unit">°</span>
        </div>
      </div>
      <div className="field-label">Worn zones</div>
      {settings.worn.map((w, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: zones have no name of their own
        <div className="worn-zone" key={i}>
          {[0, 1, 2].map((a) => (
            <span key={a}>
              {number(`Worn zone ${i + 1} ${"xyz"[a]}`, w.centre[a]!, 1, (v) => {
                const centre = [...w.centre] as [number, number, number];
                centre[a] = v;
                setSettings({ ...settings, worn: settings.worn.map((z, k) => (k === i ? { ...z, centre } : z)) });
              })}
            </span>
          ))}
          <span className="quiet small">r</span>
          {number(`Worn zone ${i + 1} radius`, w.radius, 1, (radius) =>
            setSettings({ ...settings, worn: settings.worn.map((z, k) => (k === i ? { ...z, radius } : z)) }),
          )}
          <span className="quiet small">deep</span>
          {number(`Worn zone ${i + 1} depth`, w.depth, 0.05, (depth) =>
            setSettings({ ...settings, worn: settings.worn.map((z, k) => (k === i ? { ...z, depth } : z)) }),
          )}
          <Button
            size="small"
            type="text"
            aria-label={`Drop worn zone ${i + 1}`}
            onClick={() => setSettings({ ...settings, worn: settings.worn.filter((_, k) => k !== i) })}
          >
            ×
          </Button>
        </div>
      ))}
      <Button
        size="small"
        onClick={() =>
          setSettings({ ...settings, worn: [...settings.worn, { centre: [0, 0, 0], radius: 10, depth: 0.3 }] })
        }
      >
        Add a worn zone
      </Button>
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
