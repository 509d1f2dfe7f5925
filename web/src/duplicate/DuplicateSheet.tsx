import { Button } from "antd";
import { useEffect, useMemo, useState } from "react";
import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { useTake } from "../sheets/taking";
import { useTool } from "../sheets/tool";
import { usePassing } from "../steps/passing";
import { StepForm } from "../steps/StepForm";
import { usePreview } from "../steps/usePreview";
import { ProblemNote } from "../ui/ProblemNote";
import { showPlace } from "../view/showPlace";
import { asked } from "./inputs";

/** Steps that are done once more: asks for what they take from other steps, and shows what comes of it. */
export function DuplicateSheet({ ids }: { ids: readonly string[] }) {
  const { job, edit } = useBench();
  const kinds = useKinds();
  const { close, select } = useTool();
  const { show } = usePreview();
  const refused = usePassing((s) => s.refused);
  const [given, setGiven] = useState<Record<string, Record<string, unknown>>>({});
  const steps = job.recipe.steps.filter((s) => ids.includes(s.id));
  const last = steps.at(-1)?.id ?? null;
  const copies = useMemo(() => Object.fromEntries(ids.map((id) => [id, crypto.randomUUID()])), [ids]);
  const wanted = useMemo(
    () => ({
      op: "duplicate-steps" as const,
      steps: ids.map((id) => ({ step: id, id: copies[id]!, params: given[id] ?? {} })),
    }),
    [ids, copies, given],
  );
  useEffect(() => show(wanted), [show, wanted]);
  const [keeping, setKeeping] = useState(false);
  const keep = async () => {
    if (keeping) return;
    setKeeping(true);
    if (await edit(wanted)) select(last && copies[last]!);
    else setKeeping(false);
  };
  useTake(() => void keep());
  const rows = steps.flatMap((step) => {
    const kind = kinds[step.kind];
    const fields = kind ? asked(step, kind, ids) : [];
    return fields.length ? [{ step, fields }] : [];
  });
  return (
    <section className="sheet" aria-label="Duplicate">
      <h2>{steps.length === 1 ? `Duplicate ${steps[0]!.name}` : `Duplicate ${steps.length} steps`}</h2>
      <p className="quiet">
        {steps.length === 1
          ? "Choose what the copy takes from other steps."
          : "Choose what the copies take from other steps. What they take from each other goes along."}
      </p>
      {rows.map(({ step, fields }) => (
        <div key={step.id} className="duplicate-step">
          {steps.length > 1 && <h3>{step.name}</h3>}
          <StepForm
            kind={step.kind}
            params={{ ...step.params, ...given[step.id] }}
            step={last}
            only={fields}
            onChange={(part) => setGiven({ ...given, [step.id]: { ...given[step.id], ...part } })}
          />
        </div>
      ))}
      {refused && <ProblemNote problem={refused} onGo={showPlace} />}
      <div className="sheet-actions">
        <Button type="primary" loading={keeping} onClick={() => void keep()}>
          Duplicate <kbd>Enter</kbd>
        </Button>
        <Button onClick={close}>Cancel</Button>
      </div>
    </section>
  );
}
