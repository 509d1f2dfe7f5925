import { useClip } from "../clip/clip";
import { asItIs, useSeen } from "../job/seen";
import { useArmed } from "../pick/armed";
import { usePicks } from "../pick/picks";
import { useSelecting } from "../pick/selecting";
import { useTool } from "../sheets/tool";
import { nothingPassing, usePassing } from "../steps/passing";
import { plainly, useAppearance } from "../view/appearance";
import { nothingPointed, usePointed } from "../view/pointed";

/** The bench as it is when a job is opened. */
export function resetBench() {
  usePicks.getState().clear();
  useTool.getState().close();
  useTool.getState().forget();
  useArmed.getState().arm(null);
  useSelecting.getState().set({ by: "click", through: false });
  useSeen.setState(asItIs);
  useAppearance.setState(plainly);
  usePointed.setState(nothingPointed);
  useClip.setState({ lasting: null, passing: null });
  usePassing.setState(nothingPassing);
}
