import { Popover } from "antd";
import { Glyph } from "../ui/Glyph";
import { ProblemNote } from "../ui/ProblemNote";
import { area, count, length, MM_PER, type Unit, volume } from "../units";
import { useBench } from "./context";
import { StepRow } from "./StepRow";

interface ScanFacts {
  facets: number;
  vertices: number;
  size: [number, number, number];
  area: number;
  volume: number | null;
  open_edges: number;
  closed: boolean;
  noise: number;
  components: number;
  warnings: string[];
}

/** A scan's facts in the job's unit; they are kept in file units. */
export function factsInUnit(facts: ScanFacts, fileUnit: Unit, unit: Unit): [string, string][] {
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

/** Evidence on top, then the steps in order. */
export function StepList() {
  const { job, unit } = useBench();
  const { recipe, build } = job;
  const result = build.result;
  const at = build.progress?.event === "step" ? build.progress.index : undefined;
  return (
    <nav className="steps" aria-label="Step list">
      <h2>Evidence</h2>
      <ul>
        {recipe.evidence.map((e) => {
          const facts = job.evidence_facts.find((f) => f.id === e.id)?.facts as unknown as ScanFacts | null;
          const rows = facts ? factsInUnit(facts, e.unit as Unit, unit) : [];
          return (
            <li key={e.id} className="evidence">
              <Popover
                placement="rightTop"
                title="All facts"
                content={<Facts rows={rows} warnings={facts?.warnings ?? []} />}
              >
                <div className="step-line">
                  <Glyph kind="scan" />
                  <span className="step-name">{e.name}</span>
                  <span className="figures">in {e.unit}</span>
                </div>
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
      </ul>
      {result?.problems.map((p) => (
        <ProblemNote key={p.message} problem={p} />
      ))}
      <h2>Steps</h2>
      {recipe.steps.length === 0 ? (
        <p className="empty">
          No steps yet. Click a flat or round place on the scan: the region around it grows, and its card says what you
          can do with it.
        </p>
      ) : (
        <ol>
          {recipe.steps.map((step, index) => (
            <StepRow
              key={step.id}
              step={step}
              state={result?.steps.find((s) => s.id === step.id)}
              index={index}
              running={build.status === "running" && at === index}
            />
          ))}
        </ol>
      )}
      {build.problem && <ProblemNote problem={build.problem} />}
    </nav>
  );
}
