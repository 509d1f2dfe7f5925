import { useEffect, useRef, useState } from "react";
import {
  centroids,
  type DepthMap,
  depthMap,
  facetsInside,
  joined,
  polygonMask,
  type Spot,
  strokeMask,
} from "../view/lasso";
import { stage } from "../view/stage";
import { usePicks } from "./picks";
import { useSelecting } from "./selecting";
import { useLassoParts } from "./useLassoParts";

const BRUSH_PX = 16;

/** Takes the pointer over while facets are drawn around or brushed; the camera stays still meanwhile. */
export function LassoLayer() {
  const { by, through, what } = useSelecting();
  const parts = what !== "facets" && by === "lasso";
  const lassoParts = useLassoParts();
  const layer = useRef<SVGSVGElement>(null);
  const [path, setPath] = useState<Spot[]>([]);
  const depth = useRef<DepthMap | null>(null);
  const hand = usePicks((s) => s.hand);
  const setHand = usePicks((s) => s.setHand);

  const select = (stroke: Spot[], how: "replace" | "add" | "take") => {
    const box = layer.current?.getBoundingClientRect();
    if (parts && box && stroke.length >= 3)
      return void lassoParts(
        stroke.map((s) => ({ x: s.x + box.left, y: s.y + box.top })),
        how,
      );
    if (!box || !stage.now || !stage.scan || stroke.length < (by === "lasso" ? 3 : 1)) return;
    const begun = performance.now();
    const w = Math.round(box.width);
    const h = Math.round(box.height);
    const { gl, camera } = stage.now;
    if (!through) depth.current = depthMap(gl, camera, stage.scan, w, h, depth.current);
    const mask = by === "lasso" ? polygonMask(w, h, stroke) : strokeMask(w, h, stroke, BRUSH_PX);
    const found = facetsInside(stage.scan, camera, mask, through ? null : depth.current);
    const chosen = joined(usePicks.getState().hand, found, how);
    const at = chosen[chosen.length >> 1];
    if (at === undefined) return setHand(null, null);
    const middles = centroids(stage.scan.geometry);
    const o = stage.scan.getWorldPosition(stage.scan.position.clone());
    setHand(chosen, [middles[3 * at]! + o.x, middles[3 * at + 1]! + o.y, middles[3 * at + 2]! + o.z]);
    document.documentElement.dataset.lassoMs = (performance.now() - begun).toFixed(1);
  };

  const down = (e: React.PointerEvent<SVGSVGElement>) => {
    if (e.button !== 0) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    const box = e.currentTarget.getBoundingClientRect();
    const spots: Spot[] = [{ x: e.clientX - box.left, y: e.clientY - box.top }];
    const how = e.altKey ? "take" : e.shiftKey || (by === "brush" && hand) ? "add" : "replace";
    // What can be seen is drawn once at the start, while there is nothing to wait for yet.
    if (!through && !parts && stage.now && stage.scan)
      depth.current = depthMap(
        stage.now.gl,
        stage.now.camera,
        stage.scan,
        Math.round(box.width),
        Math.round(box.height),
        depth.current,
      );
    setPath([...spots]);
    const el = e.currentTarget;
    const move = (m: PointerEvent) => {
      const last = spots.at(-1)!;
      const spot = { x: m.clientX - box.left, y: m.clientY - box.top };
      if (Math.hypot(spot.x - last.x, spot.y - last.y) < 3) return;
      // A fast stroke leaves no gaps.
      const steps = by === "brush" ? Math.ceil(Math.hypot(spot.x - last.x, spot.y - last.y) / (BRUSH_PX / 2)) : 1;
      for (let k = 1; k <= steps; k++)
        spots.push({ x: last.x + ((spot.x - last.x) * k) / steps, y: last.y + ((spot.y - last.y) * k) / steps });
      setPath([...spots]);
    };
    const up = () => {
      el.removeEventListener("pointermove", move);
      el.removeEventListener("pointerup", up);
      setPath([]);
      select(spots, how);
    };
    el.addEventListener("pointermove", move);
    el.addEventListener("pointerup", up);
  };
  useEffect(() => {
    // Middles of facets are worked out before the first stroke ends.
    if (stage.scan) centroids(stage.scan.geometry);
  }, []);
  const d = path.map((p, i) => `${i ? "L" : "M"}${p.x} ${p.y}`).join(" ");
  return (
    <svg
      ref={layer}
      className={`lasso lasso-${by}`}
      onPointerDown={down}
      aria-label={`Draw around ${parts ? what : "facets"}`}
    >
      {path.length > 0 && by === "lasso" && <path d={`${d} Z`} className="lasso-line" />}
      {path.length > 0 && by === "brush" && (
        <path d={`${d} l0.01 0`} className="brush-line" strokeWidth={2 * BRUSH_PX} />
      )}
    </svg>
  );
}
