import { Button, Checkbox, Segmented, Select } from "antd";
import { LengthInput } from "../ui/LengthInput";
import { ProblemNote } from "../ui/ProblemNote";
import { area } from "../units";
import { goTo } from "../view/stage";
import { useBench } from "./context";
import { type ExtrudeDraft, useTool } from "./stores";

/** A new extrusion: how far, which way, and what becomes of it. */
export function ExtrudeSheet({ onKeep }: { onKeep: () => void }) {
  const { job, unit } = useBench();
  const draft = useTool((s) => s.extrude)!;
  const set = useTool((s) => s.setExtrude);
  const close = useTool((s) => s.close);
  const bodies = job.build.result?.bodies ?? [];
  const sketch = job.build.result?.steps.find((s) => s.id === draft.sketch);
  const open = sketch?.problems[0];
  const needsBody = draft.operation !== "new";
  return (
    <section className="sheet" aria-label="Extrude">
      <h2>Extrude</h2>
      <p className="quiet">
        {sketch?.facts.profiles ? (
          <>
            {sketch.name}: {sketch.facts.profiles} {sketch.facts.profiles === 1 ? "profile" : "profiles"},{" "}
            {area(sketch.facts.area ?? 0, unit)}
          </>
        ) : (
          "This sketch has no closed profile yet."
        )}
      </p>
      {open && <ProblemNote problem={open} onGo={goTo} />}
      <div className="field-label">Distance, along the arrow</div>
      <LengthInput
        label="Distance"
        autoFocus
        value={draft.distance}
        onType={(distance) => set({ distance })}
        onCommit={(distance) => set({ distance })}
      />
      <Checkbox className="gap" checked={draft.symmetric} onChange={(e) => set({ symmetric: e.target.checked })}>
        half each way
      </Checkbox>
      <div className="field-label">Result</div>
      <Segmented<ExtrudeDraft["operation"]>
        block
        aria-label="Result"
        value={draft.operation}
        onChange={(operation) => set({ operation })}
        options={[
          { label: "new body", value: "new" },
          { label: "add", value: "add", disabled: bodies.length === 0 },
          { label: "subtract", value: "subtract", disabled: bodies.length === 0 },
        ]}
      />
      {needsBody && (
        <>
          <div className="field-label">{draft.operation === "add" ? "Add to" : "Subtract from"}</div>
          <Select
            aria-label="Body"
            className="wide"
            value={draft.body ?? bodies[0]?.id ?? null}
            onChange={(body) => set({ body })}
            options={bodies.map((b) => ({ value: b.id, label: b.name }))}
          />
        </>
      )}
      <div className="sheet-actions">
        <Button type="primary" onClick={onKeep} disabled={!sketch?.facts.profiles}>
          Extrude <kbd>Enter</kbd>
        </Button>
        <Button onClick={close}>Put away</Button>
      </div>
    </section>
  );
}
