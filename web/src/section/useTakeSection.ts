import { api, got, type SectionOut } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import type { Act } from "../sketch/drawing";
import { useWalls } from "../sketch/useWalls";
import { isSquared, type SectionDraft } from "./draft";
import { flushWithin, isTaken, leftOut, takenLoops } from "./taken";
import { endingAt, sharedReach, useOpenExtrude } from "./useOpenExtrude";
import { useOpenRevolve } from "./useOpenRevolve";

const deg = (x: number) => ({ text: `${x} deg`, mark: "assumed" });

/** The plane of a section as a step of its own. */
function planeStep(draft: SectionDraft, scan: string, pose: SectionOut["pose"]) {
  const turns = { turn_u: deg(draft.turnU), turn_v: deg(draft.turnV) };
  if (draft.region && draft.acrossAxis) return { by: "across axis", axis: { id: draft.region }, ...turns };
  return draft.region
    ? { by: "parallel", plane: { id: draft.region }, square: isSquared(draft), ...turns }
    : { by: "free", scan: { id: scan }, origin: draft.origin, normal: draft.normal, pose, ...turns };
}

/** Makes a sketch of the section's outline: its pieces as entities that follow the scan, and what holds among them. Goes on to what usually follows. */
export function useTakeSection(fitted: SectionOut | undefined): () => Promise<void> {
  const { job, edit, tell, scanId } = useBench();
  const extrude = useOpenExtrude();
  const revolve = useOpenRevolve();
  const wallsOn = useWalls();
  const drawn = async (acts: Act[]) => {
    const path = { job_id: job.id };
    const shown = await got(
      api.POST("/api/jobs/{job_id}/drawing", { params: { path }, body: { drawing: { made: 0 }, acts } }),
    );
    return shown.drawing;
  };
  return async () => {
    const { section: draft, select } = useTool.getState();
    if (!draft || !fitted) return;
    const left = leftOut(fitted, draft);
    const id = crypto.randomUUID();
    const plane = crypto.randomUUID();
    // A plane that is turned, set square or free in space becomes a step of its own: it can be changed and used again.
    const turned = draft.source === "section" && (draft.turnU !== 0 || draft.turnV !== 0);
    const own = turned || draft.acrossAxis || (draft.source !== "radial" && isSquared(draft)) || !draft.region;
    const frame = {
      scan: { id: scanId },
      source: draft.source,
      ...(draft.source === "radial" ? { axis: { id: draft.region } } : { plane: { id: own ? plane : draft.region } }),
      offset: { text: draft.offset || "0", mark: draft.mark ?? "assumed", note: draft.note ?? "" },
      tolerance: draft.tolerance ? { text: draft.tolerance, mark: "assumed" } : null,
      origin: fitted.origin,
      u_axis: fitted.u_axis,
      pose: fitted.pose,
    };
    const loops = takenLoops(fitted, left, draft.edited).map((l) => ({ ...l, name: "" }));
    const take = { act: "take" as const, loops, within: fitted.tolerance, relate: draft.relate };
    const on = { origin: fitted.origin, u: fitted.u_axis, normal: fitted.normal };
    const walls = draft.flush && draft.source === "section" ? await wallsOn(id, on).catch(tell) : null;
    const lay = { act: "lie-flush" as const, walls: walls ?? [], within: flushWithin(fitted) };
    const drawing = await drawn(walls?.length ? [take, lay] : [take]).catch(tell);
    if (!drawing) return;
    const sketch = { op: "add-step" as const, id, kind: "sketch", params: { ...frame, ...drawing } };
    const made = { op: "add-step" as const, id: plane, kind: "plane", params: planeStep(draft, scanId, fitted.pose) };
    const kept = await edit(own ? { op: "add-steps", steps: [made, sketch] } : sketch);
    if (!kept) return;
    // What does not close is drawn on first.
    if (draft.source === "radial" && !loops.some((l) => l.closed)) select(id);
    else if (draft.source === "radial") revolve(id, { id: draft.region });
    else {
      const reach = sharedReach(fitted.loops.filter((l, i) => isTaken(l, i, left)).map((l) => l.reach));
      extrude(id, draft.around && !turned ? endingAt(reach, -fitted.offset_mm) : reach);
    }
  };
}
