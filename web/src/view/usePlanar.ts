import type { Vec3 } from "../api/build";
import { baseOf } from "../api/facts";
import { useBench } from "../job/context";
import { usePicks } from "../pick/picks";
import { useGrow } from "../pick/useGrow";
import { useTool } from "../sheets/tool";

/** The plane that is chosen: a picked face's, the grown region's, or the open step's; its normal points outwards. */
export function usePlanar(): { at: Vec3; along: Vec3 } | null {
  const { job } = useBench();
  const faces = usePicks((s) => s.faces);
  const { grown } = useGrow();
  const step = useTool((s) => s.step);
  const face = faces.at(-1)?.face;
  if (face) return face.kind === "plane" && face.axis ? { at: face.centre, along: face.axis } : null;
  if (grown?.surface.kind === "plane") return { at: grown.surface.origin, along: grown.surface.axis };
  const base = baseOf(job.build.result?.steps.find((s) => s.id === step));
  return base?.shape === "plane" ? { at: base.at, along: base.along } : null;
}
