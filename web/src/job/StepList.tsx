import { Button, Popover } from "antd";
import { Fragment, useState } from "react";
import type { MeshFileFacts } from "../api/client";
import { fileOf, meshFile } from "../api/evidence";
import { readingText } from "../desk/facts";
import { useFocus } from "../desk/useDesk";
import { usePhoto } from "../photo/store";
import { useTool } from "../sheets/tool";
import { Glyph } from "../ui/Glyph";
import { ProblemNote } from "../ui/ProblemNote";
import { Stamp } from "../ui/Stamp";
import { area, count, length, MM_PER, type Unit, volume } from "../units";
import { useBench } from "./context";
import { SolidRow } from "./SolidRow";
import { StepRow } from "./StepRow";
import { useSeen } from "./seen";

/** A scan's facts in the job's unit; they are kept in file units. */
export function factsInUnit(facts: MeshFileFacts, fileUnit: Unit, unit: Unit): [string, string][] {
  const k = MM_PER[fileUnit];
  return [
    ["Facets", count(facts.facets)],
    ["Size", `${facts.size.map((s) => length(s * k, unit).replace(` ${unit}`, "")).join(" × ")} ${unit}`],
    ["Area", area(facts.area * k * k, unit)],
    ["Volume", facts.volume === null ? "not closed" : volume(facts.volume * k ** 3, unit)],
    ["Open edges", count(facts.open_edges)],
    ["Noise (σ)", length(facts.noise * k, unit, 1)],
  ];
}

function Facts({ rows, warnings }: { rows: [string, string][]; warnings: string[] }) {
  return (
    <div className="facts">
      <dl>
        {rows.map(([name, value]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      {warnings.map((w) => (
        <p className="quiet small" key={w}>
          {w}
        </p>
      ))}
    </div>
  );
}

/** Evidence on top, then the steps in order, those of one group under its name. */
export function StepList() {
  const { job, unit } = useBench();
  const open = useTool((s) => s.open);
  const asOf = useSeen((s) => s.asOf);
  const setLook = useSeen((s) => s.set);
  const [folded, setFolded] = useState<string[]>([]);
  const { recipe, build } = job;
  const result = build.result;
  const at = build.progress?.event === "step" ? build.progress.index : undefined;
  const scans = recipe.evidence.filter((e) => e.kind === "scan");
  const readings = recipe.evidence.filter((e) => e.kind === "reading");
  const facts = job.readings;
  const viewed = recipe.steps.find((s) => s.id === asOf);
  return (
    <nav className="steps" aria-label="Step list">
      <h2>Evidence</h2>
      <ul>
        {scans.map((e) => {
          const facts = meshFile(fileOf(job, e.id));
          const rows = facts ? factsInUnit(facts, e.unit as Unit, unit) : [];
          return (
            <li key={e.id} className="evidence">
              <Popover
                placement="rightTop"
                title="All facts"
                content={<Facts rows={rows} warnings={facts?.warnings ?? []} />}
              >
                <button
                  type="button"
                  className="step-line evidence-row"
                  onClick={() => {
                    setLook({ scan: e.id });
                    open("scan");
                  }}
                >
                  <Glyph kind="scan" />
                  <span className="step-name">{e.name}</span>
                  <span className="figures">
                    {result?.merged?.[e.id] ? "merged" : e.role === "reference" ? "reference" : `in ${e.unit}`}
                  </span>
                </button>
              </Popover>
              {facts && recipe.steps.length < 4 && <Facts rows={rows} warnings={[]} />}
              {facts && recipe.steps.length >= 4 && (
                <div className="step-note figures">
                  {rows
                    .slice(0, 2)
                    .map((r) => r[1])
                    .join(" · ")}
                </div>
              )}
            </li>
          );
        })}
        {recipe.evidence
          .filter((e) => e.kind === "solid")
          .map((s) => (
            <SolidRow key={s.id} solid={s} />
          ))}
        {readings.map((r) => (
          <li key={r.id} className="evidence">
            <button
              type="button"
              className="step-line evidence-row"
              onClick={() => {
                useFocus.getState().set({ reading: r.id });
                open("desk");
              }}
            >
              <Stamp mark={r.source ?? "caliper"} />
              <span className="step-name">{r.name}</span>
              <span className="figures">{readingText(facts[r.id], unit)}</span>
            </button>
          </li>
        ))}
        {recipe.evidence
          .filter((e) => e.kind === "picture")
          .map((p) => (
            <li key={p.id} className="evidence">
              <button
                type="button"
                className="step-line evidence-row"
                onClick={() => {
                  usePhoto.getState().open(p.id);
                  open("photo");
                }}
              >
                <Stamp mark={p.role === "drawing" ? "drawing" : "photo"} />
                <span className="step-name">{p.name}</span>
                <span className="figures">{p.marks?.length ?? 0} marks</span>
              </button>
            </li>
          ))}
        <li className="evidence">
          <button type="button" className="link small add-row" onClick={() => open("values")}>
            {recipe.values?.length || readings.length
              ? `Values and readings (${(recipe.values?.length ?? 0) + readings.length})`
              : "Add a reading or a named value"}
          </button>
        </li>
      </ul>
      {result?.problems.map((p) => (
        <ProblemNote key={p.message} problem={p} />
      ))}
      <h2>Steps</h2>
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
