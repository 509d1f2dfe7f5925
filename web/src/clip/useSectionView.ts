import { Vector3 } from "three";
import type { Vec3 } from "../api/build";
import { sceneBox } from "../view/stage";
import { usePlanar } from "../view/usePlanar";
import { type SectionView, useClip } from "./clip";

const AXES: Record<"x" | "y" | "z", Vec3> = { x: [1, 0, 0], y: [0, -1, 0], z: [0, 0, 1] };

/** Puts the section view through the middle of the part, square to an axis, or a little inside a plane that is chosen. */
export function useSectionView() {
  const planar = usePlanar();
  const { lasting, set } = useClip();
  const along = (way: SectionView["along"]) => {
    const box = sceneBox();
    if (box.isEmpty()) return;
    if (way === "chosen") {
      if (planar) set({ along: way, origin: planar.at, normal: planar.along, offset: 0, flipped: false });
      return;
    }
    const origin = box.getCenter(new Vector3()).toArray() as Vec3;
    set({ along: way, origin, normal: AXES[way], offset: 0, flipped: false });
  };
  return {
    view: lasting,
    planar: planar !== null,
    along,
    toggle: () => (lasting ? set(null) : along(planar ? "chosen" : "y")),
  };
}
