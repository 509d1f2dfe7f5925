import { Button } from "antd";
import type { SectionOut } from "../api/client";
import { useBench } from "../job/context";
import { NoScan } from "../job/NoScan";
import { useArmed } from "../pick/armed";
import { useTool } from "../sheets/tool";
import { useOpenSketch } from "../sketch/useDrawing";
import { usePassing } from "../steps/passing";
import { signed } from "../units";
import { useAppearance } from "./appearance";
import { usePointed } from "./pointed";
import { useShownBodies } from "./useShownBodies";

/** What is said over the view: what is awaited, and what a click does now. */
export function ViewNotes({ fitted, colours }: { fitted: SectionOut | undefined; colours: boolean }) {
  const { job, unit, scanId, scanKey } = useBench();
  const { armed, arm } = useArmed();
  const section = useTool((s) => s.section);
  const coloured = useAppearance((s) => s.coloured);
  const probe = usePointed((s) => s.probe);
  const bodies = useShownBodies();
  const drawing = useOpenSketch() !== null;
  const left = usePassing((s) => s.without);
  const without = job.recipe.steps.filter((s) => left.includes(s.id)).map((s) => s.name);
  return (
    <>
      {!scanId && bodies.length === 0 && !drawing && <NoScan />}
      {scanId && !scanKey && <div className="view-note">preparing the scan …</div>}
      {armed && (
        <div className="view-note armed" role="status">
          {armed.hint}
          <Button size="small" type="link" onClick={() => arm(null)}>
            Cancel
          </Button>
        </div>
      )}
      {without.length > 0 && (
        <div className="view-note low" role="status">
          Shown without {without.join(", ")} until it is taken
        </div>
      )}
      {coloured && !probe && colours && <div className="view-note low">Click the surface to read its deviation.</div>}
      {section && fitted && (
        <div className="view-note low">
          Click a piece to leave it out or take it again, with Shift its whole loop
          {section.source !== "radial" && <> · plane at {signed(fitted.offset_mm, unit)}</>}
        </div>
      )}
    </>
  );
}
