import { useEffect } from "react";
import { Plane, Vector3 } from "three";
import { useClip } from "../clip/clip";
import { SEEN_THROUGH, useAppearance } from "../view/appearance";
import { fitView, project, sceneBox, stage } from "../view/stage";
import { type Frame, inSpace, type Sheet, type XY } from "./drawing";
import { useHand } from "./store";

const ROOM_TO_DRAW = 0.66; // of the view is filled: what is drawn goes beyond what is there

const FAR = 100; // mm between the places that the plane is measured on the screen by

/** Where the plane lies on the screen now, in pixels of the view. */
export function sheetOf(frame: Frame): Sheet | null {
  const box = stage.now?.canvas.getBoundingClientRect();
  if (!box || !stage.now) return null;
  // It is asked before the frame is drawn, when the camera has moved and its matrices have not.
  stage.now.camera.updateMatrixWorld();
  const on = (p: XY) => {
    const q = project(inSpace(frame, p));
    return [q.x - box.left, q.y - box.top] as const;
  };
  const [o, x, y] = [on([0, 0]), on([FAR, 0]), on([0, FAR])];
  return {
    a: (x[0] - o[0]) / FAR,
    b: (x[1] - o[1]) / FAR,
    c: (y[0] - o[0]) / FAR,
    d: (y[1] - o[1]) / FAR,
    e: o[0],
    f: o[1],
  };
}

const same = (a: Sheet | null, b: Sheet) =>
  a !== null && (Object.keys(b) as (keyof Sheet)[]).every((k) => Math.abs(a[k] - b[k]) < 1e-9);

/** Square to the plane, from its outer side or from behind, all of the job in view. */
export function lookSquare(frame: Frame, size: number, back = false) {
  const box = sceneBox();
  if (box.isEmpty()) {
    const o = new Vector3(...frame.origin);
    box.setFromCenterAndSize(o, new Vector3(1, 1, 1).multiplyScalar(size));
  }
  // The bar stands before its lower edge.
  box.expandByVector(box.getSize(new Vector3()).multiplyScalar(0.06));
  const n = new Vector3(...frame.normal).multiplyScalar(back ? -1 : 1);
  // Exactly from above the controls cannot tell which way is up: a hair off the pole, towards the second axis.
  if (Math.abs(n.z) > 0.9999) n.addScaledVector(new Vector3(...frame.v).setZ(0), -0.002).normalize();
  fitView(box, n, ROOM_TO_DRAW);
}

/** Turns the view square to the plane when a sketch is opened, in parallel, and back when it is left. */
export function useSheet(frame: Frame | null, onFrame: { current: () => void }) {
  useEffect(() => {
    if (!frame) return undefined;
    const follow = () => {
      const now = sheetOf(frame);
      if (now && !same(useHand.getState().sheet, now)) useHand.getState().set({ sheet: now });
    };
    onFrame.current = follow;
    follow();
    return () => {
      onFrame.current = () => undefined;
      useHand.getState().set({ sheet: null });
    };
  }, [frame, onFrame]);
  const opened = useHand((s) => s.open);
  useEffect(() => {
    if (!frame || !opened) return undefined;
    // A hair over the plane, so that what lies in it is still drawn.
    const n = new Vector3(...frame.normal);
    const { pass } = useClip.getState();
    pass(new Plane(n.clone().negate(), n.dot(new Vector3(...frame.origin)) + stage.radius * 4e-4));
    return () => pass(null);
  }, [frame, opened]);
  const open = frame !== null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: it turns when a sketch opens, not whenever its plane is built again
  useEffect(() => {
    if (!open || !frame) return undefined;
    const before = useAppearance.getState();
    const was = { parallel: before.parallel, scanOpacity: before.scanOpacity };
    before.set({ parallel: true, scanOpacity: Math.min(before.scanOpacity, SEEN_THROUGH) });
    const turn = requestAnimationFrame(() => lookSquare(frame, 120));
    return () => {
      cancelAnimationFrame(turn);
      useAppearance.getState().set(was);
    };
  }, [open]);
}
