import { useEffect, useRef, useState } from "react";
import { useMove } from "../api/queries";
import { CaliperDesk } from "../desk/CaliperDesk";
import { useBench } from "../job/context";
import { FitStrip } from "../job/FitStrip";
import { StepList } from "../job/StepList";
import { useSeen } from "../job/seen";
import { PhotoDesk } from "../photo/PhotoDesk";
import { usePicks } from "../pick/picks";
import { useSection } from "../section/useSection";
import { useTakeSection } from "../section/useTakeSection";
import { useTool } from "../sheets/tool";
import { useKeepDraft } from "../steps/useKeepDraft";
import { useListsLetGo } from "../ui/lettingGo";
import { SEEN_THROUGH, useAppearance } from "../view/appearance";
import { useShownBodies } from "../view/useShownBodies";
import { View } from "../view/View";
import { OpenSheet, useSheetWidth } from "./OpenSheet";
import { TopBar } from "./TopBar";
import { useBenchKeys } from "./useBenchKeys";

/** The first body should be seen through the scan, not hidden under it. */
function useFirstBody() {
  const bodies = useShownBodies();
  const had = useRef(false);
  useEffect(() => {
    if (bodies.length > 0 && !had.current) useAppearance.getState().set({ scanOpacity: SEEN_THROUGH });
    had.current = bodies.length > 0;
  }, [bodies.length]);
}

/** A step that undo took away cannot be looked at any more. */
function useStepThatIsGone() {
  const { job } = useBench();
  const asOf = useSeen((s) => s.asOf);
  const gone = asOf !== null && !job.recipe.steps.some((s) => s.id === asOf);
  useEffect(() => {
    if (gone) useSeen.getState().set({ asOf: null });
  }, [gone]);
}

/** The bench laid out: bar, step list, view, the open sheet, fit strip; or a desk in their place. */
export function Workbench() {
  const { job, tell } = useBench();
  const move = useMove(job.id);
  const panel = useTool((s) => s.panel);
  const section = useSection();
  const takeSection = useTakeSection(section.fitted);
  const keepDraft = useKeepDraft();
  const width = useSheetWidth();
  // Another sheet wants to be seen: only the one at hand stays folded.
  const [folded, setFolded] = useState(false);
  const shown = useTool((s) => s.section !== null || s.draft?.kind || s.step || s.panel || s.repair?.step || s.copied);
  // biome-ignore lint/correctness/useExhaustiveDependencies: whatever sheet opens is unfolded
  useEffect(() => setFolded(false), [shown]);
  const atDesk = panel === "desk" || panel === "photo";
  useListsLetGo();
  useFirstBody();
  useStepThatIsGone();
  const moveHead = (direction: "undo" | "redo") => {
    if (!atDesk) useTool.getState().close();
    usePicks.getState().clear();
    move.mutate(direction, { onError: tell });
  };
  useBenchKeys({ move: moveHead });
  const state = { "data-revision": job.revision, "data-build": job.build.status };
  if (atDesk)
    return (
      <div className="bench at-desk" {...state}>
        <TopBar onMove={moveHead} />
        {panel === "desk" ? <CaliperDesk /> : <PhotoDesk />}
      </div>
    );
  return (
    <div className={`bench ${width}${folded && width ? " sheet-folded" : ""}`} {...state}>
      <TopBar onMove={moveHead} />
      <StepList />
      <View raw={section.raw} fitted={section.fitted} onMove={moveHead} />
      <OpenSheet section={section} onTake={() => void takeSection()} onKeep={() => void keepDraft()} />
      {width && (
        <button
          type="button"
          className="sheet-fold"
          aria-expanded={!folded}
          aria-label={folded ? "Unfold the sheet" : "Fold the sheet"}
          onClick={() => setFolded(!folded)}
        >
          {folded ? "◂" : "▸"}
        </button>
      )}
      <FitStrip />
    </div>
  );
}
