import { Button, Input, Slider } from "antd";
import { useRegions } from "./store";

interface Props {
  busy: boolean;
  /** They were looked for before. */
  again: boolean;
  onFind: () => void;
  onStop: () => void;
}

/** How finely the scan is taken apart, and the button that does it. */
export function FindForm({ busy, again, onFind, onStop }: Props) {
  const regions = useRegions();
  return (
    <>
      <label className="field-label" htmlFor="coarseness">
        How far a facet may lie off its surface
      </label>
      <div className="slider-line">
        <span className="quiet small">finer</span>
        <Slider
          id="coarseness"
          ariaLabelForHandle="Finer or coarser"
          min={0.5}
          max={2.5}
          step={0.1}
          value={regions.coarseness}
          tooltip={{ formatter: (v) => `${(v ?? 1).toFixed(1)} × the noise's own` }}
          onChange={(coarseness) => regions.set({ coarseness })}
        />
        <span className="quiet small">coarser</span>
      </div>
      <div className="value-line">
        <label htmlFor="least-area">Smallest region</label>
        <Input
          id="least-area"
          size="small"
          className="least-area"
          suffix="mm²"
          placeholder="by facets"
          value={regions.least}
          onChange={(e) => regions.set({ least: e.target.value })}
          onKeyDown={(e) => e.stopPropagation()}
        />
        <div className="top-gap" />
        {busy ? (
          <Button size="small" onClick={onStop}>
            Stop
          </Button>
        ) : (
          <Button size="small" type={again ? "default" : "primary"} onClick={onFind}>
            {again ? "Look again" : "Find regions"}
          </Button>
        )}
      </div>
    </>
  );
}
