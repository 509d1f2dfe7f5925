import { Button } from "antd";
import { useEffect } from "react";
import type { StepState } from "../api/build";
import { useKinds } from "../api/kinds";
import { Figures } from "../construct/MeasureSheet";
import { ProblemNote } from "../ui/ProblemNote";
import { area } from "../units";
import { goTo } from "../view/stage";
import { AlignPicks } from "./AlignPicks";
import { useBench } from "./context";
import { MergePairs } from "./MergePairs";
import { PickedFacets } from "./PickedFacets";
import { SeatPairs } from "./SeatPairs";
import { SolidFile } from "./SolidFile";
import { StepForm } from "./StepForm";
import { factRows } from "./stepValues";
import { useLook, useTool } from "./stores";
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
  const { show, clear } = usePreview();
  const passing = useLook((s) => s.passing);
  const looking = useLook((s) => s.looking);
  const refused = useLook((s) => s.refused);
  const construct = ["plane", "axis", "point", "measurement"].includes(draft.kind);
  const found = draft.kind === "measurement" ? Object.values(passing).find((f) => f.measured !== undefined) : undefined;
  const shape = Object.values(passing).find((f) => f.shape !== undefined);
  const placed = construct && shape ? ({ status: "ok", facts: shape } as never as StepState) : null;
  const sketch = job.build.result?.steps.find((s) => s.id === (draft.params.sketch as { id: string } | null)?.id);
  const open = sketch?.problems[0];
  const noProfile = draft.kind === "extrude" && !sketch?.facts.profiles;
  const pairs = draft.params.pairs as unknown[] | undefined;
  const others = draft.params.others as { scan: { id: string } }[] | undefined;
  const by = draft.kind === "align" ? draft.params.by : null;
  const bare = draft.kind === "trim" && draft.params.by === "facets" && !draft.params.picked;
  const waits = bare || (by === "datum" && !draft.params.primary) || (by === "solid" && !draft.params.solid);
  // What a list of parts needs at least one of is picked first.
  const lists = (kind?.fields ?? []).filter((f) => f.type === "refs" && !f.ids && f.needed);
  const unpicked = lists.some((f) => !(draft.params[f.name] as unknown[] | undefined)?.length);
  const idle = unpicked || noProfile || waits || (pairs !== undefined && pairs.length === 0) || others?.length === 0;
  // Mends are no matter of looking first: they are kept, compared with what was, and undone.
  const looks = kind?.makes !== "scan" || draft.kind === "align";
  useEffect(() => {
    // What an earlier choice showed, or why it was refused, is not said of this one.
    if (idle) clear();
    else if (looks) show({ op: "add-step", kind: draft.kind, params: draft.params, after });
  }, [draft, after, idle, looks, show, clear]);
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
      <StepForm
        kind={draft.kind}
        params={draft.params}
        step={null}
        onChange={setDraft}
        onType={setDraft}
        slots={{
          by: draft.kind === "align" && <AlignPicks params={draft.params} facts={undefined} onChange={setDraft} />,
        }}
      />
      {draft.kind === "align" && draft.params.by === "solid" && (
        <SolidFile value={draft.params.solid as never} onChange={(solid) => setDraft({ solid })} />
      )}
      {draft.kind === "trim" && draft.params.by === "facets" && (
        <PickedFacets onChange={(picked) => setDraft({ picked })} value={draft.params.picked as never} />
      )}
      {others && (
        <MergePairs
          into={String((draft.params.scan as { id: string }).id)}
          others={others as never}
          rows={undefined}
          onChange={(next) => setDraft({ others: next })}
        />
      )}
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
      {found && <Figures facts={found} unit={unit} />}
      {placed && (
        <dl className="fact-list">
          {factRows({ ...placed, kind: draft.kind }, unit).map(([name, value]) => (
            <div key={name}>
              <dt>{name}</dt>
              <dd>{value}</dd>
            </div>
          ))}
        </dl>
      )}
      {construct && looking && <p className="quiet">working it out …</p>}
      {refused && construct && <ProblemNote problem={refused} onGo={goTo} />}
      <div className="sheet-actions">
        <Button type="primary" onClick={onKeep} disabled={idle}>
          {kind?.title} <kbd>Enter</kbd>
        </Button>
        <Button onClick={close}>Put away</Button>
      </div>
    </section>
  );
}
