import type { SectionOut } from "../api/client";
import { factsOf } from "../api/facts";
import { useBench } from "../job/context";
import { usePicks } from "../pick/picks";
import { useTool } from "../sheets/tool";
import { typed, type Unit } from "../units";
import { useShownBodies } from "../view/useShownBodies";

type Reach = NonNullable<SectionOut["loops"][number]["reach"]>;

/** What all outermost loops hold, the shortest either way. */
export function sharedReach(reaches: readonly (Reach | null | undefined)[]): Reach | null {
  const known = reaches.filter((r) => r != null);
  const within = Math.min(...known.map((r) => r.within));
  const outer = known.filter((r) => r.within === within);
  if (!outer.length) return null;
  return { within, behind: Math.min(...outer.map((r) => r.behind)), ahead: Math.min(...outer.map((r) => r.ahead)) };
}

/** How far the scan goes on over an outline, as an extrusion takes it: both ways at once where the plane lies within the part. */
export function reached(reach: Reach | null | undefined, unit: Unit) {
  const least = 0.05;
  const own = (mm: number) => ({ text: typed(mm, unit), mark: "scan" });
  if (!reach || Math.max(reach.ahead, reach.behind) < least) return null;
  if (reach.ahead < least) return { distance: own(-reach.behind) };
  return { distance: own(reach.ahead), ...(reach.behind < least ? {} : { back: own(reach.behind) }) };
}

/** Prepares an extrusion of a sketch: added to the body there is, else as a new one, as far as the scan goes where that is known. */
export function useOpenExtrude(): (sketch: string, reach?: Reach | null) => void {
  const { unit, job } = useBench();
  const bodies = useShownBodies();
  return (sketch, reach) => {
    usePicks.getState().clear();
    const text = unit === "inch" ? "0.4 inch" : "10 mm";
    const told = factsOf(job.build.result?.steps.find((s) => s.id === sketch)?.facts, "outline");
    useTool.getState().openDraft({
      kind: "extrude",
      params: {
        sketch: { id: sketch },
        extent: "distance",
        distance: { text, mark: "assumed" },
        ...reached(reach ?? told?.reach, unit),
        symmetric: false,
        operation: bodies.length > 0 ? "add" : "new",
        bodies: bodies.slice(0, 1).map((b) => ({ id: b.id })),
      },
    });
  };
}
