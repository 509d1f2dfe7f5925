import { useMemo } from "react";
import { LengthHandle } from "../handles/LengthHandle";
import { useBench } from "../job/context";
import { useAppearance } from "../view/appearance";
import { ScanCut } from "./CutLines";
import { cutOf, useClip } from "./clip";

/** What the lasting section view adds to the view: the scan's cut, and the grip that moves the plane. */
export function SectionViewInView({ ready }: { ready: boolean }) {
  const { palette, scanKey } = useBench();
  const view = useClip((s) => (s.passing ? null : s.lasting));
  const change = useClip((s) => s.change);
  const { scanOpacity, hidden } = useAppearance();
  const cut = useMemo(() => (view ? cutOf(view) : null), [view]);
  if (!view || !cut) return null;
  const size = Math.hypot(...view.normal) || 1;
  const normal = view.normal.map((x) => x / size) as [number, number, number];
  return (
    <>
      <ScanCut
        at={cut.at}
        normal={cut.away}
        palette={palette}
        of={`${scanKey} ${ready} ${scanOpacity > 0.01} ${hidden}`}
      />
      <LengthHandle
        origin={view.origin}
        direction={normal}
        at={view.offset}
        colour={palette.below}
        onDrag={(mm) => change({ offset: Math.round(mm * 20) / 20 })}
        onRelease={() => undefined}
      />
    </>
  );
}
