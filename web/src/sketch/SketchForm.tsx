import { Button, Checkbox } from "antd";
import { ProblemError } from "../api/client";
import { useBench } from "../job/context";
import type { PartProps } from "../steps/kindView";
import { StepForm } from "../steps/StepForm";
import { shownValue, type Typed } from "../steps/stepValues";
import { ProblemNote } from "../ui/ProblemNote";
import { length } from "../units";
import { ValueField } from "../values/ValueField";
import { goTo } from "../view/stage";
import { assumedIn, type Frame, inSpace, type Shown } from "./drawing";
import { FileFold } from "./FileFold";
import { FitPanel } from "./FitPanel";
import { PhotoFold } from "./PhotoFold";
import { ProfileRows } from "./ProfileRows";
import { RedrawIt } from "./RedrawIt";
import { SizeRows } from "./SizeRows";
import { useHandOf } from "./store";
import type { Do } from "./stroke";
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
      {shown && <WaysOut shown={shown} act={act} />}
      {shown && open?.frame && <Gaps shown={shown} frame={open.frame} act={act} />}
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

/** Ends that nearly meet, each with what would close it; and what bounds nothing. */
function Gaps({ shown, frame, act }: { shown: Shown; frame: Frame; act: Do }) {
  const { unit } = useBench();
  const { set } = useHandOf("set");
  const loose = [...new Set(shown.loose)];
  return (
    <>
      {shown.gaps.map((g, k) => (
        <div key={`${g.between.join()}${g.at.join()}`} className="sketch-gap">
          <button type="button" className="link" onClick={() => goTo(inSpace(frame, [g.at[0], g.at[1]]))}>
            Gap {k + 1}: {length(g.width, unit, 1)} between {g.between.join(" and ")}
          </button>
          <Button
            size="small"
            onClick={() => void act([{ act: "relate", kind: g.mend.kind, of: [...g.mend.of], value: null }])}
          >
            Close it
          </Button>
        </div>
      ))}
      {loose.length > 0 && (
        <p className="quiet small">
          {loose.length} {loose.length === 1 ? "piece bounds" : "pieces bound"} nothing.{" "}
          <Button size="small" type="link" onClick={() => set({ chosen: loose })}>
            Show {loose.length === 1 ? "it" : "them"}
          </Button>
        </p>
      )}
    </>
  );
}
