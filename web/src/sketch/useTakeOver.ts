import type { Step } from "../api/client";
import { useBench } from "../job/context";
import { pieceKey, takenLoops } from "../section/taken";
import { type Act, type Frame, footOn, onSheet, type Shown, type XY } from "./drawing";
import { useHand } from "./store";
import type { Do } from "./stroke";
import type { Evidence } from "./useUnderlay";

/** Takes pieces of the section over: the one that was pointed at, with Shift its whole loop. They follow the scan from then on. */
export function useTakeOver(step: Step | undefined, frame: Frame | null, evidence: Evidence, act: Do) {
  const { edit, scanId } = useBench();
  const { section } = evidence;
  const take = async (keys: string[]): Promise<Shown | null> => {
    if (!section || !step || !keys.length) return null;
    const all = section.loops.flatMap((l, i) => l.pieces.map((_, j) => pieceKey(i, j)));
    const left = all.filter((k) => !keys.includes(k));
    const loops = takenLoops(section, left).map((l) => ({ ...l, name: "" }));
    if (!step.params.scan)
      await edit({
        op: "set-params",
        step: step.id,
        params: { scan: { id: scanId }, pose: section.pose, ...axes(step, frame) },
      });
    const over: Act = { act: "take", loops, within: section.tolerance, relate: true };
    const shown = await act([over]);
    if (shown) useHand.getState().set({ chosen: [] });
    return shown;
  };
  const at = (p: XY, within: number, whole: boolean) => {
    if (!section || !frame) return;
    const rows = section.loops.flatMap((l, i) =>
      l.pieces.map((piece, j) => ({
        key: pieceKey(i, j),
        loop: i,
        off:
          footOn(
            piece.path.map((q) => onSheet(frame, q)),
            p,
          )?.off ?? Number.POSITIVE_INFINITY,
      })),
    );
    const hit = rows.filter((r) => r.off <= 1.5 * within).sort((a, b) => a.off - b.off)[0];
    if (!hit) return;
    void take(whole ? rows.filter((r) => r.loop === hit.loop).map((r) => r.key) : [hit.key]);
  };
  const all = () => {
    if (section) void take(section.loops.flatMap((l, i) => l.pieces.map((_, j) => pieceKey(i, j))));
  };
  return { at, all, ready: section !== undefined && section.loops.length > 0 };
}

/** The sketch keeps the axes that pieces were taken over in, wherever its plane's own zero goes. */
function axes(step: Step, frame: Frame | null) {
  return step.params.origin || !frame ? {} : { origin: frame.origin, u_axis: frame.level };
}
