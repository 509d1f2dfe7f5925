import { Button, Input } from "antd";
import { FromRegion } from "../construct/FromRegion";
import { IntentForm } from "../regions/IntentForm";
import { RegionTools } from "../regions/RegionTools";
import { ProblemNote } from "../ui/ProblemNote";
import { faceOn, goTo } from "../view/stage";
import { AlignPicks } from "./AlignPicks";
import { useBench } from "./context";
import { MendOutcome } from "./MendOutcome";
import { MergePairs } from "./MergePairs";
import { PickedFacets } from "./PickedFacets";
import { RegionForm } from "./RegionForm";
import { SeatPairs } from "./SeatPairs";
import { SolidFile } from "./SolidFile";
import { StepForm } from "./StepForm";
import { factRows } from "./stepValues";
import { type SectionDraft, useTool } from "./stores";
import { usePreview } from "./usePreview";

interface Props {
  onSection: (region: string, part?: Partial<SectionDraft>) => void;
  onExtrude: (sketch: string) => void;
}

/** Problems of what a step points to, not of its values. */
export const MENDABLE = ["ref-lost", "ref-ambiguous", "wrong-kind"];

const textOf = (value: unknown) => (value as { text?: string } | null)?.text ?? "";

/** The chosen step's values, what it measured, and what usually comes next. */
export function StepSheet({ onSection, onExtrude }: Props) {
  const { job, unit, edit } = useBench();
  const id = useTool((s) => s.step);
  const close = useTool((s) => s.close);
  const mend = useTool((s) => s.mend);
  const preview = usePreview();
  const step = job.recipe.steps.find((s) => s.id === id);
  const state = job.build.result?.steps.find((s) => s.id === id);
  if (!step) return null;
  const set = (params: Record<string, unknown>) => {
    preview.clear();
    void edit({ op: "set-params", step: step.id, params });
  };
  return (
    <section className="sheet" aria-label="Step">
      <h2>{step.name}</h2>
      {state?.problems
        .filter((p) => step.kind !== "seat" || state.status !== "ok" || !p.where?.param?.startsWith("pairs["))
        .map((p) => (
          <ProblemNote
            key={p.message + p.where?.param}
            problem={p}
            onGo={goTo}
            onMend={p.where?.param && MENDABLE.includes(p.code) ? () => mend(step.id, p.where!.param!) : undefined}
          />
        ))}
      {step.kind === "intent" && <IntentForm step={step} state={state} onChange={set} />}
      {step.kind !== "intent" && (
        <StepForm
          key={step.id}
          kind={step.kind}
          params={step.params as Record<string, unknown>}
          state={state}
          step={step.id}
          slots={{
            by: step.kind === "align" && <AlignPicks params={step.params} facts={state?.facts} onChange={set} />,
          }}
          onChange={set}
          onType={(part) => {
            const same = Object.entries(part).every(([k, v]) => textOf(v) === textOf(step.params[k]));
            if (same) preview.clear();
            else preview.show({ op: "set-params", step: step.id, params: part });
          }}
        />
      )}
      {step.kind === "seat" && (
        <SeatPairs
          step={step.id}
          body={String((step.params.body as { id: string }).id)}
          pairs={step.params.pairs as never}
          rows={state?.facts.pairs ?? []}
          unseated={state?.facts.unseated ?? []}
          onChange={(pairs) => set({ pairs })}
        />
      )}
      {step.kind === "align" && step.params.by === "solid" && (
        <SolidFile value={step.params.solid as never} onChange={(solid) => set({ solid })} />
      )}
      {step.kind === "trim" && (step.params.by ?? "facets") === "facets" && (
        <PickedFacets value={(step.params.picked ?? null) as never} onChange={(picked) => set({ picked })} />
      )}
      {step.kind === "merge" && (
        <MergePairs
          into={String((step.params.scan as { id: string }).id)}
          others={step.params.others as never}
          rows={state?.facts.scans}
          onChange={(others) => others.length > 0 && set({ others })}
        />
      )}
      {state?.scans && state.facts.facets_before !== undefined && <MendOutcome state={state} />}
      {step.kind === "region" && state?.status === "ok" && (
        <RegionForm
          step={step.id}
          leaveWorn={Boolean(step.params.leave_worn)}
          onLeave={(leave_worn) => set({ leave_worn })}
        />
      )}
      {step.kind === "region" && state?.status === "ok" && <RegionTools key={`tools-${step.id}`} region={step.id} />}
      <dl className="fact-list">
        {factRows(state, unit).map(([name, value]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      <div className="field-label">Note</div>
      <Input.TextArea
        key={`${step.id}-${job.revision}`}
        aria-label="Note on the step"
        autoSize={{ minRows: 1, maxRows: 5 }}
        defaultValue={step.note ?? ""}
        placeholder="why it is so"
        onKeyDown={(e) => e.stopPropagation()}
        onBlur={(e) => {
          if (e.target.value.trim() !== (step.note ?? ""))
            void edit({ op: "note-step", step: step.id, note: e.target.value });
        }}
      />
      <div className="sheet-actions">
        {step.kind === "region" && state?.facts.kind === "plane" && (
          <>
            <Button type="primary" onClick={() => onSection(step.id)}>
              Cut a section
            </Button>
            <Button onClick={() => onSection(step.id, { source: "silhouette", offset: "0 mm" })}>Silhouette</Button>
            <Button onClick={() => faceOn(state.facts.origin, state.facts.axis)}>Look at it</Button>
          </>
        )}
        {state?.facts.lines !== undefined && state.status === "ok" && (
          <Button type="primary" onClick={() => onExtrude(step.id)}>
            Extrude
          </Button>
        )}
        {state?.facts.shape === "plane" && (
          <>
            <Button type="primary" onClick={() => onSection(step.id)}>
              Cut a section
            </Button>
            <Button onClick={() => onSection(step.id, { source: "silhouette", offset: "0 mm" })}>Silhouette</Button>
            <Button onClick={() => faceOn(state.facts.origin, state.facts.direction)}>Look at it</Button>
          </>
        )}
        {state?.status === "ok" &&
          (state.facts.shape === "axis" || ["cylinder", "cone", "torus"].includes(state.facts.kind)) && (
            <Button type="primary" onClick={() => onSection(step.id)}>
              Turned profile
            </Button>
          )}
        {step.kind === "region" && state?.status === "ok" && <FromRegion region={step.id} kind={state.facts.kind} />}
        <Button onClick={close}>Close</Button>
      </div>
    </section>
  );
}
