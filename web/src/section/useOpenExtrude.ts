import type { SectionOut } from "../api/client";
import { factsOf } from "../api/facts";
import { useBench } from "../job/context";
import { usePicks } from "../pick/picks";
import { useTool } from "../sheets/tool";
import { length, typed, type Unit } from "../units";
import { useShownBodies } from "../view/useShownBodies";

type Reach = NonNullable<SectionOut["loops"][number]["reach"]>;

/** What all outermost loops hold, the shortest either way. */
export function sharedReach(reaches: readonly (Reach | null | undefined)[]): Reach | null {
  const known = reaches.filter((r) => r != null);
  const within = Math.min(...known.map((r) => r.within));
  const outer = known.filter((r) => r.within === within);
  if (!outer.length) return null;
  const behind = outer.reduce((a, b) => (b.behind < a.behind ? b : a));
  const ahead = outer.reduce((a, b) => (b.ahead < a.ahead ? b : a));
  return {
    within,
    behind: behind.behind,
    ahead: ahead.ahead,
    stands_behind: behind.stands_behind,
    stands_ahead: ahead.stands_ahead,
  };
}

/** The same, no farther than the face that the section was begun from, above the plane by so many mm (below it where negative): that is the block's end. */
export function endingAt(reach: Reach | null, face: number): Reach | null {
  if (!reach || face === 0) return reach;
  return face > 0
    ? { ...reach, ahead: Math.min(reach.ahead, face), stands_ahead: reach.ahead < face && reach.stands_ahead }
    : { ...reach, behind: Math.min(reach.behind, -face), stands_behind: reach.behind < -face && reach.stands_behind };
}

/** So far an added block reaches into what it stands on: the two are measured apart and would hardly ever meet. */
const INTO_MM = 0.5;

/** How far the scan goes on over an outline, as an extrusion takes it: both ways at once where the plane lies within the part. */
export function reached(reach: Reach | null | undefined, unit: Unit, joins: boolean) {
  const least = 0.05;
  if (!reach || Math.max(reach.ahead, reach.behind) < least) return null;
  const own = (mm: number, stands: boolean | undefined, way = 1) => {
    const into = joins && stands;
    const note = into ? `as far as the scan goes, and ${length(INTO_MM, unit)} into what it stands on` : "";
    return { text: typed(way * (mm + (into ? INTO_MM : 0)), unit), mark: "scan", note };
  };
  const behind = (way = 1) => own(reach.behind, reach.stands_behind, way);
  if (reach.ahead < least) return { distance: behind(-1) };
  const distance = own(reach.ahead, reach.stands_ahead);
  return reach.behind < least ? { distance } : { distance, back: behind() };
}

/** Prepares an extrusion of a sketch: added to the body there is, else as a new one, as far as the scan goes where that is known. */
export function useOpenExtrude(): (sketch: string, reach?: Reach | null, profiles?: string[]) => void {
  const { unit, job } = useBench();
  const bodies = useShownBodies();
  return (sketch, reach, profiles) => {
    usePicks.getState().clear();
    const text = unit === "inch" ? "0.4 inch" : "10 mm";
    const told = factsOf(job.build.result?.steps.find((s) => s.id === sketch)?.facts, "drawn");
    useTool.getState().openDraft({
      kind: "extrude",
      params: {
        sketch: { id: sketch },
        ...(profiles?.length ? { profiles } : {}),
        extent: "distance",
        distance: { text, mark: "assumed" },
        ...reached(reach ?? told?.reach, unit, bodies.length > 0),
        symmetric: false,
        operation: bodies.length > 0 ? "add" : "new",
        bodies: bodies.slice(0, 1).map((b) => ({ id: b.id })),
      },
    });
  };
}
