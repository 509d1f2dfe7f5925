import { Button } from "antd";
import { Fragment, useState } from "react";
import { ProblemNote } from "../ui/ProblemNote";
import { useBench } from "./context";
import { EvidenceList } from "./EvidenceList";
import { StepRow } from "./StepRow";
import { useSeen } from "./seen";
import { WhatNext } from "./WhatNext";

/** Evidence on top, then the steps in order, those of one group under its name. */
export function StepList() {
  const { job } = useBench();
  const asOf = useSeen((s) => s.asOf);
  const setLook = useSeen((s) => s.set);
  const [folded, setFolded] = useState<string[]>([]);
  const { recipe, build } = job;
  const result = build.result;
  const at = build.progress?.event === "step" ? build.progress.index : undefined;
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
          {recipe.steps.map((step, index) => {
            const group = step.group ?? "";
            const opens = group !== "" && recipe.steps[index - 1]?.group !== group;
            const shut = folded.includes(group);
            return (
              <Fragment key={step.id}>
                {opens && (
                  <li className="group">
                    <button
                      type="button"
                      aria-expanded={!shut}
                      onClick={() => setFolded(shut ? folded.filter((g) => g !== group) : [...folded, group])}
                    >
                      {shut ? "▸" : "▾"} {group}
                    </button>
                  </li>
                )}
                {(group === "" || !shut) && (
                  <StepRow
                    step={step}
                    state={result?.steps.find((s) => s.id === step.id)}
                    index={index}
                    running={build.status === "running" && at === index}
                  />
                )}
              </Fragment>
            );
          })}
        </ol>
      )}
      {build.problem && <ProblemNote problem={build.problem} />}
    </nav>
  );
}
