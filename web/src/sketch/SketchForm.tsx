import { Checkbox } from "antd";
import { ProblemError } from "../api/client";
import { factsOf } from "../api/facts";
import { useBench } from "../job/context";
import { flushWithin } from "../section/taken";
import type { PartProps } from "../steps/kindView";
import { StepForm } from "../steps/StepForm";
import { shownValue, type Typed } from "../steps/stepValues";
import { ProblemNote } from "../ui/ProblemNote";
import { ValueField } from "../values/ValueField";
import { assumedIn, type Shown } from "./drawing";
import { FileFold } from "./FileFold";
import { FitPanel } from "./FitPanel";
import { LieFlush } from "./LieFlush";
import { PhotoFold } from "./PhotoFold";
import { ProfileRows } from "./ProfileRows";
import { RedrawIt } from "./RedrawIt";
import { SizeRows } from "./SizeRows";
import { SketchGaps } from "./SketchGaps";
import { useHandOf } from "./store";
import { useDrawing, useOpenSketch } from "./useDrawing";
import { WaysOut } from "./WaysOut";

const OF_SCAN = ["scan", "tolerance"];

/** Fields of where a sketch lies: on a plane, or beside the axis that a profile was turned about; and the scan that it follows. */
const placeFields = (params: PartProps["params"]) => [
  params.source === "radial" ? "axis" : "plane",
  ...(params.scan ? OF_SCAN : []),
];

/** What the drawing says of itself in words, its sizes, its profiles, and the plane it lies on. */
export function SketchForm({ step, state, params, onChange }: PartProps) {
  const { unit, scanKey } = useBench();
  const { shown, problem, act } = useDrawing(step ?? undefined);
  const open = useOpenSketch();
  const { section, open: opened, set } = useHandOf("section", "open", "set");
  if (!step) return null;
  const told = factsOf(state?.facts, "drawn");
  const value = (name: "offset" | "turn", label: string) => (
    <ValueField
      label={label}
      shown={shownValue((params[name] ?? null) as Typed | null, name, state, unit)}
      of={{ kind: "sketch", params, place: name, own: step.id, dimension: name === "turn" ? "angle" : "length" }}
      onCommit={(v) => v && onChange({ [name]: v })}
    />
  );
  return (
    <>
      {problem instanceof ProblemError && <ProblemNote problem={problem.problem} />}
      {!open?.frame && state?.status !== "failed" && <p className="quiet">finding the plane …</p>}
      {shown && <Said shown={shown} />}
      {shown && <RedrawIt shown={shown} act={act} />}
      {shown && open?.frame && told?.tolerance != null && (
        <LieFlush
          step={step}
          frame={open.frame}
          shown={shown}
          within={flushWithin({ tolerance: told.tolerance })}
          act={act}
        />
      )}
      {shown && <WaysOut shown={shown} act={act} />}
      {shown && open?.frame && <SketchGaps shown={shown} frame={open.frame} act={act} />}
      <div className="field-label">Sizes</div>
      {shown && <SizeRows shown={shown} step={step} act={act} />}
      {shown && <PhotoFold step={step} shown={shown} />}
      {shown && drawnIn(shown) && <FitPanel step={step} frame={open?.frame ?? null} shown={shown} act={act} />}
      {shown && <FileFold frame={open?.frame ?? null} shown={shown} act={act} />}
      {shown && <ProfileRows shown={shown} step={step.id} />}
      {scanKey && (
        <Checkbox className="gap" checked={section} onChange={(e) => set({ section: e.target.checked })}>
          The scan's section lies under it
        </Checkbox>
      )}
      <Checkbox className="gap" checked={opened} onChange={(e) => set({ open: e.target.checked })}>
        Open the view at the plane
      </Checkbox>
      <details className="fold">
        <summary>Where it lies</summary>
        <StepForm
          kind="sketch"
          only={placeFields(params)}
          params={params}
          state={state}
          step={step.id}
          onChange={onChange}
        />
        {params.source !== "radial" && value("offset", "Height over the plane")}
        {params.source !== "radial" && value("turn", "Turned by")}
      </details>
    </>
  );
}

const drawnIn = (shown: Shown) =>
  shown.solved && Object.values(shown.drawing.entities ?? {}).some((e) => e.kind !== "point" && !e.linked);

/** How much is still free, in words. */
function Said({ shown }: { shown: Shown }) {
  const drawn = Object.values(shown.drawing.entities ?? {}).filter((e) => e.kind !== "point").length;
  if (!drawn && !Object.keys(shown.drawing.entities ?? {}).length)
    return (
      <p>
        Nothing is drawn yet. Choose a tool in the bar below the view, take pieces of the section over, bring edges of a
        body in, or lay a photo under it to draw on.
      </p>
    );
  const assumed = assumedIn(shown.drawing).size;
  const brought = Object.values(shown.drawing.entities ?? {}).filter((e) => e.kind !== "point" && e.linked).length;
  const free = Object.entries(shown.free).filter(([id, n]) => n > 0 && shown.drawing.entities?.[id]?.kind !== "point");
  const motions = `${shown.dof} ${shown.dof === 1 ? "motion" : "motions"}`;
  return (
    <p data-said="freedom">
      {drawn - brought} {drawn - brought === 1 ? "piece" : "pieces"}
      {brought > 0 && `, and ${brought} brought in`}.{" "}
      {shown.solved &&
        (shown.dof === 0
          ? "Everything is settled."
          : free.length
            ? `${motions} left: ${free.length === drawn - brought ? "all" : free.length} of them can still move.`
            : `${motions} left.`)}
      {assumed > 0 &&
        ` ${assumed === 1 ? "One piece is" : `${assumed} pieces are`} assumed: the scan has nothing there.`}
    </p>
  );
}
