import { Button } from "antd";
import { Fragment, useState } from "react";
import { useKinds } from "../api/kinds";
import { useTool } from "../sheets/tool";
import { ProblemNote } from "../ui/ProblemNote";
import { useBench } from "./context";
import { EvidenceList } from "./EvidenceList";
import { type Gathered, gathered } from "./gathered";
import { PutDown } from "./PutDown";
import { SetList } from "./SetList";
import { StepRow } from "./StepRow";
import { useSeen } from "./seen";
import { WhatNext } from "./WhatNext";

/** Evidence on top, then the steps in order, those of one group under its name. */
export function StepList() {
  const { job } = useBench();
  const asOf = useSeen((s) => s.asOf);
  const setLook = useSeen((s) => s.set);
  const kinds = useKinds();
  const { step: selected, copy } = useTool();
  const [folds, setFolds] = useState<Record<string, boolean>>({});
  const { recipe, build } = job;
  const result = build.result;
  const at = build.progress?.event === "step" ? build.progress.index : undefined;
  const states = new Map(result?.steps.map((s) => [s.id, s]));
  // Regions fold away by themselves, unless one of them is looked at or wants something.
  const wanted = (g: Gathered) =>
    g.steps.some(({ step }) => step.id === selected || (states.get(step.id)?.problems.length ?? 0) > 0);
  const isOpen = (g: Gathered) => folds[g.key] ?? (!g.own || wanted(g));
  const scans = recipe.evidence.filter((e) => e.kind === "scan");
  const viewed = recipe.steps.find((s) => s.id === asOf);
  return (
    <nav className="steps" aria-label="Step list">
      <h2>Evidence</h2>
      <EvidenceList />
      {result?.problems.map((p) => (
        <ProblemNote key={p.message} problem={p} />
      ))}
      <h2>Steps</h2>
      <WhatNext />
      <PutDown />
      {viewed && (
        <div className="as-of" role="status">
          As of <b>{viewed.name}</b>; a new step goes right after it.
          <Button size="small" onClick={() => setLook({ asOf: null })}>
            Whole job
          </Button>
        </div>
      )}
      {recipe.steps.length === 0 ? (
        <p className="empty">
          {scans.length > 0
            ? "No steps yet. Click a flat or round place on the scan: the region around it grows, and its card says what you can do with it."
            : "No steps yet. Steps begin on a scan, or on an outline traced in a photo; readings and named values gather here meanwhile."}
        </p>
      ) : (
        <ol>
          {gathered(recipe.steps, states, kinds).map((g) => {
            const open = isOpen(g);
            return (
              <Fragment key={g.steps[0]!.step.id}>
                {g.key && (
                  <li className={g.own ? "group group-own" : "group"}>
                    <button type="button" aria-expanded={open} onClick={() => setFolds({ ...folds, [g.key]: !open })}>
                      {open ? "▾" : "▸"} {g.title}
                    </button>
                    {!g.own && (
                      <button
                        type="button"
                        className="group-copy"
                        aria-label={`Duplicate ${g.title}`}
                        onClick={() => copy(g.steps.map(({ step }) => step.id))}
                      >
                        Duplicate
                      </button>
                    )}
                  </li>
                )}
                {open &&
                  g.steps.map(({ step, index }) => (
                    <StepRow
                      key={step.id}
                      step={step}
                      state={states.get(step.id)}
                      index={index}
                      running={build.status === "running" && at === index}
                    />
                  ))}
              </Fragment>
            );
          })}
        </ol>
      )}
      <SetList />
      {build.problem && <ProblemNote problem={build.problem} />}
    </nav>
  );
}
