import { Button } from "antd";
import { useEffect } from "react";
import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { useTake } from "../sheets/taking";
import { useTool } from "../sheets/tool";
import { ProblemNote } from "../ui/ProblemNote";
import { showPlace } from "../view/showPlace";
import { Facts } from "./Facts";
import { kindView } from "./kindViews";
import { nextToChoose, nextToPick } from "./nextToPick";
import { usePassing } from "./passing";
import { newestFacts } from "./proposal";
import { StepForm } from "./StepForm";
import { slotsOf } from "./slotsOf";
import { Unpicked } from "./Unpicked";
import { usePreview } from "./usePreview";

interface Props {
  /** The step the new one will stand right after; none: at the end. */
  after: string | null;
  onKeep: () => void;
}

/** A step that is being prepared: its values, with what it would give shown in the view, until it is kept. */
export function DraftSheet({ after, onKeep }: Props) {
  const { job } = useBench();
  const draft = useTool((s) => s.draft)!;
  const setDraft = useTool((s) => s.setDraft);
  const close = useTool((s) => s.close);
  const kind = useKinds()[draft.kind];
  const { show, clear } = usePreview();
  const { passing, looking, refused, keeping } = usePassing();
  const { Below, slots, waits, looks: seen, lists, tells } = kindView(draft.kind);
  const waiting = waits?.(draft.params) ?? false;
  const own = { params: draft.params, step: null, state: undefined, onChange: setDraft };
  const next = nextToPick(kind, draft.params);
  // A kind says of its own what is to be chosen better than its fields do.
  const goOn = next ?? (typeof waiting === "string" ? waiting : nextToChoose(kind, draft.params));
  const idle = goOn !== null || Boolean(waiting);
  // Mends are no matter of looking first: they are kept, compared with what was, and undone.
  const looks = kind?.makes !== "scan" || seen === true;
  const found = lists ? (newestFacts(passing, job.recipe.steps) ?? null) : null;
  useEffect(() => {
    // What an earlier choice showed, or why it was refused, is not said of this one.
    if (idle) clear();
    else if (looks) show({ op: "add-step", kind: draft.kind, params: draft.params, after });
  }, [draft, after, idle, looks, show, clear]);
  useTake(idle ? null : onKeep);
  // What has not been picked yet is no fault.
  const unpicked = refused?.got === "nothing";
  return (
    <section className="sheet" aria-label={kind?.title ?? "New step"}>
      <h2>{kind?.title}</h2>
      <p className="quiet">{kind?.help}.</p>
      <StepForm
        kind={draft.kind}
        params={draft.params}
        step={null}
        onChange={setDraft}
        onType={setDraft}
        slots={slotsOf(slots, own)}
      />
      {Below && <Below {...own} />}
      <Facts facts={found} />
      {goOn && <p className="quiet">{`To go on, ${goOn}.`}</p>}
      {refused &&
        !idle &&
        !tells &&
        (unpicked ? (
          <Unpicked problem={refused} onTake={setDraft} />
        ) : (
          <ProblemNote problem={refused} onGo={showPlace} onTake={setDraft} />
        ))}
      <div className="sheet-actions">
        <Button type="primary" onClick={onKeep} disabled={idle} loading={keeping}>
          {kind?.title} <kbd>Enter</kbd>
        </Button>
        <Button onClick={close}>Cancel</Button>
        {looking && (
          <span className="quiet late" role="status">
            working it out …
          </span>
        )}
      </div>
    </section>
  );
}
