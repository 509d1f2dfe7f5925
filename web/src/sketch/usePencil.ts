import { type RefObject, useEffect, useRef } from "react";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { at, gap, mmPerPixel, type Shown, toPlane, type XY } from "./drawing";
import { LAY, LAY_WORDS } from "./pictures";
import { entityNear, regionAt, type Snap, snapped, type Underlay } from "./snap";
import { useHand } from "./store";
import { type Do, place } from "./stroke";
import { toolOf, wayOf } from "./tools";
import { TAKE_OVER } from "./useSketchKeys";

const SNAP_PX = 10;
const CLICK_PX = 4;

interface Props {
  host: RefObject<HTMLElement | null>;
  shown: Shown | undefined;
  under: Underlay;
  act: Do;
  onTakeOver: (p: XY, within: number, whole: boolean) => void;
  /** A picture that was pointed at, with where it belongs, twice. */
  onLay: (picture: string, spots: XY[]) => void;
}

/** The pointer over the drawing: it draws with the tool in hand, chooses, or drags what is free. */
export function usePencil(props: Props) {
  const { job, tell } = useBench();
  const now = useRef({ ...props, tell });
  now.current = { ...props, tell };
  const { host } = props;
  useEffect(() => {
    const el = host.current;
    if (!el) return undefined;
    let down: { x: number; y: number; point: string | null } | null = null;
    let asking = false;
    let key: string | null = null;
    const spot = (e: PointerEvent): { p: XY; within: number } | null => {
      const sheet = useHand.getState().sheet;
      const box = el.getBoundingClientRect();
      const p = sheet && toPlane(sheet, [e.clientX - box.left, e.clientY - box.top]);
      return p ? { p, within: SNAP_PX * mmPerPixel(sheet!) } : null;
    };
    const mine = (e: PointerEvent) => e.target instanceof HTMLCanvasElement;
    const aim = (e: PointerEvent): Snap | null => {
      const here = spot(e);
      const { shown, under } = now.current;
      if (!here || !shown) return null;
      return aimed(here.p, here.within, shown, under, e.altKey);
    };
    const drag = (e: PointerEvent) => {
      const here = spot(e);
      const { shown } = now.current;
      if (!here || !shown || !down?.point || asking) return;
      asking = true;
      const body = { point: down.point, to: here.p, key, drawing: key ? null : shown.drawing };
      got(api.POST("/api/jobs/{job_id}/drag", { params: { path: { job_id: job.id } }, body }))
        .then((found) => {
          key = found.key;
          if (down?.point && Object.keys(found.points).length)
            useHand.getState().set({ dragged: { points: found.points, paths: found.paths } });
        })
        .catch((e) => {
          key = null; // whoever has forgotten the drag is told the drawing again
          now.current.tell(e);
        })
        .finally(() => {
          asking = false;
        });
    };
    const move = (e: PointerEvent) => {
      const h = useHand.getState();
      if (down?.point && !h.tool) return drag(e);
      const here = spot(e);
      const { shown } = now.current;
      if (!here || !shown || (e.buttons && !h.tool)) return;
      if (h.tool) return h.set({ pointer: aim(e) });
      const over = entityNear(shown, here.p, here.within);
      if (over !== h.over) h.set({ over });
    };
    const press = (e: PointerEvent) => {
      if (e.button !== 0 || !mine(e)) return;
      const { tool } = useHand.getState();
      const here = spot(e);
      const { shown } = now.current;
      if (!here || !shown) return;
      const over = entityNear(shown, here.p, here.within);
      // What was brought in stays where it came from, however hard one pulls.
      const seen = over ? shown.drawing.entities?.[over] : undefined;
      const point = !tool && seen?.kind === "point" && !seen.linked ? over : null;
      down = { x: e.clientX, y: e.clientY, point };
      key = null;
      // The view stays still under the pencil, and under what is taken hold of.
      if (tool || down.point) e.stopPropagation();
    };
    const lift = (e: PointerEvent) => {
      const from = down;
      down = null;
      if (!from || e.button !== 0) return;
      const h = useHand.getState();
      const here = spot(e);
      const { shown, act, onTakeOver, onLay } = now.current;
      if (!here || !shown) return;
      const still = Math.hypot(e.clientX - from.x, e.clientY - from.y) <= CLICK_PX;
      if (from.point && !still) {
        void act([{ act: "pull", point: from.point, to: here.p }]).then(() =>
          useHand.getState().set({ dragged: null }),
        );
        return;
      }
      h.set({ dragged: null });
      if (!still && !h.tool) return;
      if (h.tool === TAKE_OVER) return onTakeOver(here.p, here.within, e.shiftKey);
      if (h.tool === LAY) {
        const aimedAt = aim(e);
        if (!aimedAt) return;
        const spots = [...h.spots, aimedAt];
        if (spots.length < LAY_WORDS.length) return h.set({ spots });
        h.drop();
        return onLay(
          h.way,
          spots.map((s) => s.at),
        );
      }
      if (h.tool) {
        const aimedAt = aim(e);
        if (aimedAt && fits(aimedAt)) void place(aimedAt, () => now.current.shown ?? shown, act);
        return;
      }
      choose(shown, here.p, here.within, e.shiftKey);
    };
    el.addEventListener("pointermove", move);
    el.addEventListener("pointerdown", press, true);
    el.addEventListener("pointerup", lift);
    return () => {
      el.removeEventListener("pointermove", move);
      el.removeEventListener("pointerdown", press, true);
      el.removeEventListener("pointerup", lift);
    };
  }, [host, job.id]);
}

/** Where the pointer is meant to be, for the tool in hand. Alt holds every snap off. */
function aimed(p: XY, within: number, shown: Shown, under: Underlay, held: boolean): Snap {
  const h = useHand.getState();
  const tool = toolOf(h.tool);
  if (tool?.picks === "curve" || h.way.startsWith("touch")) {
    const curves = { ...shown, drawing: { ...shown.drawing, entities: {} } };
    const id = entityNear(curves, p, 1.5 * within);
    const asks = tool?.picks === "curve" || h.spots.length < (h.way === "touch2" ? 2 : 3);
    if (asks) return id ? { at: p, said: id, on: [id] } : { at: p, said: "" };
  }
  if (tool?.picks === "corner") {
    const points = Object.entries(shown.drawing.entities ?? {}).flatMap(([id, e]) =>
      e.kind === "point" ? [{ id, off: gap([e.at[0], e.at[1]], p) }] : [],
    );
    const near = points.filter((r) => r.off <= 1.5 * within).sort((a, b) => a.off - b.off)[0];
    return near ? { at: at(shown.drawing, near.id)!, said: `corner ${near.id}`, point: near.id } : { at: p, said: "" };
  }
  // What is seen in a picture lies where it is seen, whatever is drawn beside it.
  if (h.tool === LAY && h.spots.length % 2 === 0) return { at: p, said: "" };
  const off = { points: false, middles: false, curves: false, evidence: false, directions: false, grid: null };
  const from = h.tool === "line" && !h.bend ? (h.spots.at(-1)?.at ?? null) : null;
  const on = h.spots.at(-1)?.on ?? [];
  return snapped({ pointer: p, within, shown, under, snaps: held ? off : h.snaps, from, on });
}

/** Whether a place is one that the tool in hand can use. */
function fits(spot: Snap): boolean {
  const h = useHand.getState();
  const tool = toolOf(h.tool);
  if (!tool) return false;
  if (tool.picks === "corner") return spot.point !== undefined;
  if (tool.picks === "curve") return spot.on !== undefined;
  const touches = h.way === "touch2" ? 2 : h.way === "touch3" ? 3 : 0;
  if (h.spots.length < touches) return spot.on !== undefined;
  return wayOf(tool, h.way).words.length > 0;
}

/** Without a tool a click chooses: an entity, with Shift several; else the region it is in. */
function choose(shown: Shown, p: XY, within: number, more: boolean) {
  const h = useHand.getState();
  const hit = entityNear(shown, p, within);
  if (hit) {
    const rest = h.chosen.filter((c) => c !== hit);
    return h.set({ chosen: more ? (rest.length < h.chosen.length ? rest : [...h.chosen, hit]) : [hit] });
  }
  const region = regionAt(shown, p);
  if (!region) return h.set({ chosen: [], profiles: more ? h.profiles : [] });
  const others = h.profiles.filter((r) => r !== region);
  h.set({ chosen: [], profiles: others.length < h.profiles.length ? others : [...h.profiles, region] });
}
