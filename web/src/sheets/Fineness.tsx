import { Segmented } from "antd";
import { useBench } from "../job/context";
import { LengthInput } from "../ui/LengthInput";
import { roughLength, typed } from "../units";

/** How far a triangle may lie from the true surface, and how far the surface may turn over one. */
export const FINENESS: Record<string, { gap_mm: number; turn_deg: number }> = {
  draft: { gap_mm: 0.2, turn_deg: 30 },
  good: { gap_mm: 0.05, turn_deg: 20 },
  fine: { gap_mm: 0.01, turn_deg: 8 },
};

interface Props {
  chord: string;
  angle: string;
  onChord: (text: string) => void;
  onAngle: (text: string) => void;
}

/** How fine a mesh is to be: one of three by name, or figures of one's own. */
export function Fineness({ chord, angle, onChord, onAngle }: Props) {
  const { unit } = useBench();
  const named = Object.entries(FINENESS).find(
    ([, f]) =>
      Math.abs(roughLength(chord, unit) - f.gap_mm) < 1e-3 && Math.abs(Number.parseFloat(angle) - f.turn_deg) < 1e-6,
  )?.[0];
  const choose = (name: string) => {
    const preset = FINENESS[name];
    if (!preset) return;
    onChord(typed(preset.gap_mm, unit));
    onAngle(String(preset.turn_deg));
  };
  return (
    <>
      <Segmented<string>
        block
        size="small"
        aria-label="Fineness"
        value={named ?? "own"}
        options={[...Object.keys(FINENESS), "own"]}
        onChange={choose}
      />
      <div className="field-label">Largest gap to the true surface</div>
      <LengthInput label="Largest gap to the true surface" value={chord} onCommit={onChord} />
      <div className="field-label">Largest turn per facet, deg</div>
      <LengthInput label="Largest turn per facet" value={angle} onCommit={onAngle} />
    </>
  );
}
