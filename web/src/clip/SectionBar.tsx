import { Button, Segmented } from "antd";
import { useBench } from "../job/context";
import { LengthInput } from "../ui/LengthInput";
import { roughLength, typed } from "../units";
import { type SectionView, useClip } from "./clip";
import { useSectionView } from "./useSectionView";

/** Moves, turns round and ends the section view. */
export function SectionBar() {
  const { unit } = useBench();
  const { set, change, passing } = useClip();
  const { view, planar, along } = useSectionView();
  if (!view || passing) return null;
  const ways: { value: SectionView["along"]; label: string; title: string }[] = [
    { value: "x", label: "x", title: "square to x, through the middle" },
    { value: "y", label: "y", title: "square to y, through the middle" },
    { value: "z", label: "z", title: "square to z, through the middle" },
    ...(planar || view.along === "chosen"
      ? [{ value: "chosen" as const, label: "chosen", title: "along the plane that is picked" }]
      : []),
  ];
  const move = (text: string) => {
    const mm = roughLength(text, unit);
    if (Number.isFinite(mm)) change({ offset: mm });
  };
  return (
    <div className="section-bar" role="toolbar" aria-label="Section view">
      <span className="quiet">Section view, square to</span>
      <Segmented size="small" aria-label="Square to" value={view.along} options={ways} onChange={along} />
      <span className="quiet">moved</span>
      <LengthInput label="Section view: moved by" value={typed(view.offset, unit)} onCommit={move} />
      <Button
        size="small"
        aria-pressed={view.flipped}
        title="keep what is cut away, cut away what is kept"
        onClick={() => change({ flipped: !view.flipped })}
      >
        Other side
      </Button>
      <Button size="small" onClick={() => set(null)}>
        Whole part
      </Button>
    </div>
  );
}
