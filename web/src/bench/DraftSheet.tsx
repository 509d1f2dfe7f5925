import { Button } from "antd";
import { useEffect } from "react";
import { useKinds } from "../api/kinds";
import { ProblemNote } from "../ui/ProblemNote";
import { area } from "../units";
import { goTo } from "../view/stage";
import { useBench } from "./context";
import { SeatPairs } from "./SeatPairs";
import { StepForm } from "./StepForm";
import { useTool } from "./stores";
import { usePreview } from "./usePreview";

interface Props {
  /** The step the new one will stand right after; none: at the end. */
  after: string | null;
  onKeep: () => void;
}

/** A step that is being prepared: its values, with what it would give shown in the view, until it is kept. */
export function DraftSheet({ after, onKeep }: Props) {
  const { job, unit } = useBench();
  const draft = useTool((s) => s.draft)!;
  const setDraft = useTool((s) => s.setDraft);
  const close = useTool((s) => s.close);
  const kind = useKinds()[draft.kind];
  const { show } = usePreview();
  const sketch = job.build.result?.steps.find((s) => s.id === (draft.params.sketch as { id: string } | null)?.id);
  const open = sketch?.problems[0];
  const noProfile = draft.kind === "extrude" && !sketch?.facts.profiles;
  const pairs = draft.params.pairs as unknown[] | undefined;
  const idle = noProfile || (pairs !== undefined && pairs.length === 0);
  useEffect(() => {
    if (!idle) show({ op: "add-step", kind: draft.kind, params: draft.params, after });
  }, [draft, after, idle, show]);
  return (
    <section className="sheet" aria-label={kind?.title ?? "New step"}>
      <h2>{kind?.title}</h2>
      {sketch && (
        <p className="quiet">
          {sketch.facts.profiles ? (
            <>
              {sketch.name}: {sketch.facts.profiles} {sketch.facts.profiles === 1 ? "profile" : "profiles"},{" "}
              {area(sketch.facts.area ?? 0, unit)}
            </>
          ) : (
            "This sketch has no closed profile yet."
          )}
        </p>
      )}
      {!sketch && <p className="quiet">{kind?.help}.</p>}
      {open && <ProblemNote problem={open} onGo={goTo} />}
      <StepForm kind={draft.kind} params={draft.params} step={null} onChange={setDraft} onType={setDraft} />
      {pairs && (
        <SeatPairs
          step={null}
          body={String((draft.params.body as { id: string }).id)}
          pairs={pairs as never}
          rows={[]}
          unseated={null}
          onChange={(next) => setDraft({ pairs: next })}
        />
      )}
      <div className="sheet-actions">
        <Button type="primary" onClick={onKeep} disabled={idle}>
          {kind?.title} <kbd>Enter</kbd>
        </Button>
        <Button onClick={close}>Put away</Button>
      </div>
    </section>
  );
}
