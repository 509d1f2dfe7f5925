import { type RefObject, useEffect, useRef } from "react";
import type { Step } from "../api/client";
import { useBench } from "../job/context";
import { pickBodies } from "../view/stage";
import { BRING_IN, offerNear, offerOfFace } from "./bringIn";
import { type Frame, mmPerPixel, toPlane } from "./drawing";
import { useHand } from "./store";
import type { Do } from "./stroke";
import { useLinkable } from "./useLinkable";

const REACH_PX = 12;

/** Edges, faces, cuts, silhouettes and sketches under the pointer: shown first, brought in by a click. */
export function useBringIn(host: RefObject<HTMLElement | null>, step: Step, frame: Frame, act: Do) {
  const { job } = useBench();
  const found = useLinkable(step, frame);
  const bodies = job.build.result?.bodies;
  const now = useRef({ ...found, act, bodies, frame });
  now.current = { ...found, act, bodies, frame };
  useEffect(() => {
    const el = host.current;
    if (!el) return undefined;
    const meant = (e: PointerEvent): number | null => {
      const { offers, bodies: built, frame: on } = now.current;
      const h = useHand.getState();
      const box = el.getBoundingClientRect();
      const p = h.sheet && toPlane(h.sheet, [e.clientX - box.left, e.clientY - box.top]);
      if (!p || !h.sheet) return null;
      if (h.way !== "face") return offerNear(offers, on, p, REACH_PX * mmPerPixel(h.sheet));
      const hit = pickBodies(e.clientX, e.clientY)[0];
      return hit ? offerOfFace(offers, hit.body, built?.find((b) => b.id === hit.body)?.faces[hit.face]?.name) : null;
    };
    const mine = (e: PointerEvent) =>
      e.target instanceof HTMLCanvasElement && useHand.getState().tool === BRING_IN && !(e.buttons & ~1);
    const move = (e: PointerEvent) => {
      if (!mine(e)) return;
      const offered = meant(e);
      if (offered !== useHand.getState().offered) useHand.getState().set({ offered });
    };
    const lift = (e: PointerEvent) => {
      if (!mine(e) || e.button !== 0) return;
      const k = meant(e);
      const offer = k === null ? undefined : now.current.offers[k];
      if (offer) void now.current.act([{ act: "bring-in", link: offer.link, pieces: offer.pieces }]);
    };
    el.addEventListener("pointermove", move);
    el.addEventListener("pointerup", lift);
    return () => {
      el.removeEventListener("pointermove", move);
      el.removeEventListener("pointerup", lift);
    };
  }, [host]);
  return found;
}
