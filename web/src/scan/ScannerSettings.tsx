import { Button, InputNumber } from "antd";
import type { components } from "../api/schema";

export type Settings = components["schemas"]["PracticeScan"];

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

interface Props {
  settings: Settings;
  onChange: (settings: Settings) => void;
}

/** How finely and how badly the scanner sees, how the part lies, and where it is worn. */
export function ScannerSettings({ settings, onChange: setSettings }: Props) {
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
    <>
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
    </>
  );
}
