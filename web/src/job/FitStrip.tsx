import { Button, Popover } from "antd";
import { api, got } from "../api/client";
import { useKinds } from "../api/kinds";
import { useTool } from "../sheets/tool";
import { usePassing } from "../steps/passing";
import { LengthInput } from "../ui/LengthInput";
import { length, share, signed } from "../units";
import { useAppearance } from "../view/appearance";
import { usePointed } from "../view/pointed";
import { goTo } from "../view/stage";
import { useBench } from "./context";
import { FitFigures } from "./FitFigures";
import { Histogram } from "./Histogram";

const changeFrom = (before: number | undefined, after: number) => (before === undefined ? null : after - before);

/** The bar that always shows how the model fits the scan. */
export function FitStrip() {
  const { job, unit, palette, edit, tell } = useBench();
  const coloured = useAppearance((s) => s.coloured);
  const set = useAppearance((s) => s.set);
  const point = usePointed((s) => s.set);
  const { build, recipe } = job;
  const fit = build.result?.fit;
  const running = build.status === "queued" || build.status === "running";
  const last = Object.entries(fit?.by_step ?? {}).at(-1);
  const step = recipe.steps.find((s) => s.id === last?.[0]);
  // What is being prepared, with all steps below it, by the sample that steps are compared by.
  const passing = usePassing((s) => s.fit);
  const old = usePassing((s) => s.fitting);
  const figures = passing ?? fit?.figures;
  const scanned = recipe.evidence.some((e) => e.kind === "scan");
  // As high as the figures will be before the first of them comes, so that the view does not move under the pointer then.
  const kinds = useKinds();
  const begun = useTool((s) => s.draft?.kind);
  const awaited = [...recipe.steps.map((s) => s.kind), begun ?? ""].some((k) =>
    ["sketch", "body"].includes(kinds[k]?.makes ?? ""),
  );
  const stop = () =>
    got(api.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: job.id } } })).catch((e: unknown) => tell(e));
  return (
    <section
      className={passing ? (old ? "fit fit-passing fit-old" : "fit fit-passing") : "fit"}
      aria-label="Fit strip"
      data-fit={passing ? "passing" : fit ? (fit.figures.sampled ? "sample" : "full") : "none"}
    >
      {figures ? (
        <>
          <div className="fit-main">
            <div className="fit-share">{share(figures.inside_share)}</div>
            <div className="fit-within">
              <span>inside ±</span>
              <LengthInput
                label="Acceptance"
                value={length(recipe.acceptance_mm, unit)}
                onCommit={(text) => void edit({ op: "set-job", acceptance: { text, mark: "intent", note: "" } })}
              />
            </div>
          </div>
          <Histogram shares={figures.histogram} acceptance={figures.acceptance} unit={unit} palette={palette} />
          <div className="fit-worst">
            <div className="field-label">Worst places</div>
            {figures.worst.slice(0, 3).map((w) => (
              <button type="button" className="link figures" key={w.point.join()} onClick={() => goTo(w.point)}>
                <span className={w.deviation > 0 ? "above" : "below"}>{signed(w.deviation, unit)}</span>
              </button>
            ))}
          </div>
          <FitFigures
            figures={figures}
            of={passing ? "if taken" : (step?.name ?? "last step")}
            change={passing ? changeFrom(last?.[1].inside_share, passing.inside_share) : last?.[1].change}
          />
          {(recipe.probes?.length ?? 0) > 0 && (
            <Popover trigger="click" placement="topRight" title="Pinned probes" content={<ProbeList />}>
              <Button>Probes ({recipe.probes?.length})</Button>
            </Popover>
          )}
          <Button
            type={coloured ? "primary" : "default"}
            aria-pressed={coloured}
            onClick={() => {
              set({ coloured: !coloured });
              point({ probe: null });
            }}
          >
            {coloured ? "Plain view" : "Colour by deviation"}
          </Button>
        </>
      ) : (
        <p className={scanned && awaited ? "fit-empty fit-awaited quiet" : "fit-empty quiet"}>
          {scanned
            ? `The fit appears here as soon as there is a body: how much of the scan lies within ±${length(recipe.acceptance_mm, unit)}.`
            : "Bring in a scan of the part, and its fit to the bodies appears here."}
        </p>
      )}
      {running && (
        <div className="fit-busy" role="status">
          <span className="spin" aria-hidden="true" />
          {build.status === "queued" ? "waiting for the worker" : (build.progress?.name ?? "building")}
          <Button size="small" type="link" onClick={stop}>
            Stop
          </Button>
        </div>
      )}
      {build.status === "cancelled" && (
        <div className="fit-busy">The build was stopped. Any change starts it again.</div>
      )}
    </section>
  );
}

function ProbeList() {
  const { job, unit, edit } = useBench();
  const values = job.build.result?.fit?.probes ?? {};
  return (
    <ul className="offers">
      {job.recipe.probes?.map((p) => (
        <li key={p.id}>
          <button type="button" className="step-name" onClick={() => goTo(p.point as [number, number, number])}>
            {p.name}
          </button>
          <span className="figures">{values[p.id] === undefined ? "…" : signed(values[p.id]!, unit, 1)}</span>
          <Button
            size="small"
            type="text"
            aria-label={`Drop ${p.name}`}
            onClick={() => void edit({ op: "drop-probe", id: p.id })}
          >
            ×
          </Button>
        </li>
      ))}
    </ul>
  );
}
